<x-layouts.app :page="$page" title="Preview">
<div class="head"><div><h1>{{ $kept['name'] }}</h1><p>For <code>{{ $source->code }}</code> {{ $source->name }}. Nothing is stored yet. The guesses can be overruled; the rows below follow at once.</p></div></div>
<form id="reader" method="post" action="/m/{{ $migration->id }}/sources/upload/{{ $upload }}">
    @csrf
    <div class="panel grid-form" hx-get="/m/{{ $migration->id }}/sources/upload/{{ $upload }}" hx-include="#reader" hx-target="#preview" hx-trigger="change">
        <div class="stack"><label for="delimiter">Delimiter</label><select id="delimiter" name="delimiter">@foreach ([',' => 'comma', ';' => 'semicolon', 'tab' => 'tab', '|' => 'bar', ':' => 'colon', '~' => 'tilde', '^' => 'caret'] as $value => $label)<option value="{{ $value }}" @selected($format->toArray()['delimiter'] === $value)>{{ $label }}</option>@endforeach</select><small class="quiet">{{ $guess->reasons['delimiter'] }}</small></div>
        <div class="stack"><label for="quote">Quote</label><select id="quote" name="quote"><option value="&quot;" @selected($format->quote === '"')>double quote</option><option value="'" @selected($format->quote === "'")>single quote</option><option value="" @selected($format->quote === '')>none</option></select><small class="quiet">doubled inside a cell</small></div>
        <div class="stack"><label for="encoding">Encoding</label><select id="encoding" name="encoding">@foreach ($encodings as $name)<option @selected($format->encoding->value === $name)>{{ $name }}</option>@endforeach</select><small class="quiet">{{ $guess->reasons['encoding'] }}</small></div>
        <div class="stack"><label for="header">First line</label><select id="header" name="header"><option value="1" @selected($format->header)>is the header</option><option value="0" @selected(! $format->header)>is data</option></select><small class="quiet">{{ $guess->reasons['header'] }}</small></div>
        <div class="stack"><label for="skip">Lines to skip above</label><input id="skip" name="skip" type="number" min="0" value="{{ $format->skip }}"><small class="quiet">title lines</small></div>
        <div class="stack"><label for="pad_short">Rows with too few cells</label><select id="pad_short" name="pad_short"><option value="0" @selected(! $format->padShort)>are rejected</option><option value="1" @selected($format->padShort)>are filled with blanks</option></select><small class="quiet">they are kept as read</small></div>
        <div class="stack"><label for="rows">Rows to preview</label><select id="rows" name="rows">@foreach ([5, 10, 20, 50] as $n)<option @selected($rows === $n)>{{ $n }}</option>@endforeach</select><small class="quiet">of the beginning</small></div>
    </div>
    <div id="preview">@include('sources.preview')</div>
    <div class="panel row mt-3"><label for="name">Name of the extract</label><input id="name" name="name" value="{{ old('name', pathinfo($kept['name'], PATHINFO_FILENAME)) }}" required maxlength="100"><span class="quiet">An extract of this name in {{ $source->code }} gets its next take.</span><button class="btn main">Freeze {{ $kept['name'] }}</button></div>
</form>
</x-layouts.app>
