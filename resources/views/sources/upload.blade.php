<x-layouts.app :page="$page" title="Preview">
  @php($here = "/m/{$migration->id}/sources/upload/{$upload}")
  @php($many = count($kept['parts']) > 1)
  @php($good = count(array_filter($kept['parts'], fn($p) => $p->settings && !$p->refused)))
  <div class="head">
    <div>
      <h1>{{ $kept['name'] }}</h1>
      <p>For <code>{{ $source->code }}</code> {{ $source->name }}. Nothing is stored yet. The guesses can be overruled;
        the rows below follow at once.
        @if ($known)
          <br>There is an extract of this name already, and this becomes its take
          {{ $known->takes()->max('number') + 1 }}, read
          {{ $part->isLike($known) ? 'as the last time' : 'from another kind of file than the last' }}.
        @endif
      </p>
    </div>
    @if ($many && $good > 1 && count($together->files) === 1)
      <form class="actions" method="post" action="{{ $here }}">@csrf<input type="hidden" name="all"
          value="1"><button class="btn">Freeze all {{ $good }} tables as guessed</button></form>
    @endif
  </div>
  @php($files = count($together->files))
  @if ($files > 1)
    <nav class="parts" aria-label="Files that came together">
      @foreach ($together->files as $id => $file)
        <a href="/m/{{ $migration->id }}/sources/upload/{{ $id }}"
          @if ($id === $upload) aria-current="page" @endif>{{ $file['name'] }}
          @if ($file['decided'])
            <span class="quiet">looked at</span>
          @endif
        </a>
      @endforeach
    </nav>
  @endif
  @if ($many)
    <nav class="parts" aria-label="Tables in the file">
      @foreach ($kept['parts'] as $i => $p)
        <a href="{{ $here }}?part={{ $i }}"
          @if ($i === $at) aria-current="page" @endif
          @class(['bad' => $p->refused])>{{ $p->name }}</a>
      @endforeach
    </nav>
  @endif
  @if ($settings === null)
    <div class="note bad" role="alert">{{ $part->name }}: {{ $part->refused }}</div>
  @else
    <form id="reader" method="post" action="{{ $here }}">
      @csrf
      <input type="hidden" name="part" value="{{ $at }}">
      <input type="hidden" name="reader[kind]" value="{{ $settings->format::kind() }}">
      @if ($settings->member)
        <input type="hidden" name="reader[member]" value="{{ $settings->member }}">
      @endif
      <div class="panel row mb-2"><label for="name">Name of the extract</label><input id="name" name="name"
          value="{{ old('name', $name) }}" required maxlength="100"><span class="quiet">An extract of this name in
          {{ $source->code }} gets its next take.</span>
        @if ($files === 1 && !$many)
          <label for="stated">The client states</label><input id="stated" name="stated" inputmode="numeric"
            size="8" value="{{ old('stated') }}" placeholder="not said"> rows
        @endif
        @if ($files > 1)
          @if ($together->after($upload))
            <button class="btn main" name="then" value="next">Keep this, and look at the next file</button>
          @endif
          <button @class(['btn', 'main' => !$together->after($upload)]) name="then" value="all">Freeze all
            {{ $files }} files</button>
        @else
          <button class="btn main">Freeze {{ $many ? $part->name : $kept['name'] }}</button>
        @endif
        @if ($room)
          <span class="quiet">{{ $room }}</span>
        @endif
      </div>
      <div class="panel grid-form from-top" hx-get="{{ $here }}" hx-include="#reader" hx-target="#preview"
        hx-trigger="change">
        @include('sources.reader', [
            'format' => $settings->format,
            'layout' => $settings->layout,
            'reasons' => $part->reasons,
        ])
        <div class="stack"><label for="rows">Rows to preview</label><select id="rows" name="rows">
            @foreach ($say::PREVIEWED as $n)
              <option @selected($rows === $n)>{{ $n }}</option>
            @endforeach
          </select><small class="quiet">of the beginning</small></div>
      </div>
      <div id="preview">@include('sources.preview')</div>
    </form>
  @endif
</x-layouts.app>
