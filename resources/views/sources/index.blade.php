<x-layouts.app :page="$page" title="Sources">
@php($extracts = $sources->flatMap->extracts)
<div class="head">
    <div><h1>{{ $page->entity ? \App\View\Page::label($page->entity->name).': where it comes from' : 'Sources' }}</h1>
        <p>{{ \App\View\Page::count($sources->count(), 'legacy system') }}, {{ \App\View\Page::count($extracts->count(), 'extract') }}, {{ number_format($extracts->sum(fn ($e) => $e->take?->rows ?? 0)) }} rows frozen. Nothing here is ever changed; corrections lie over it.</p></div>
    <div class="actions"><a class="btn" href="/m/{{ $page->migration->id }}/plan">Plan file</a></div>
</div>
@can('work', $page->migration)
<form class="panel row" method="post" action="/m/{{ $page->migration->id }}/sources/upload" enctype="multipart/form-data">@csrf
    <label for="file">A delimited text file</label><input id="file" name="file" type="file" required>
    <label for="source">of</label><select id="source" name="source">@foreach ($sources as $source)<option value="{{ $source->id }}">{{ $source->code }} {{ $source->name }}</option>@endforeach</select>
    <button class="btn main" @disabled($sources->isEmpty())>Upload and preview</button>
</form>
@endcan
@foreach ($sources as $source)
    @continue($only !== null && $source->extracts->whereIn('id', $only)->isEmpty())
    <h2><code>{{ $source->code }}</code> {{ $source->name }}</h2>
    @if ($source->notes)<p class="quiet mb-2">{{ $source->notes }}</p>@endif
    <table class="sheet">
        <thead><tr><th>Extract</th><th class="n">Rows</th><th class="n">By lines</th><th class="n">Columns</th><th>Read as</th><th class="n">Take</th><th>Taken</th><th class="n">Bytes</th><th>SHA-256</th><th>Remarks</th></tr></thead>
        <tbody>
        @forelse ($source->extracts as $extract)
            @continue($only !== null && ! in_array($extract->id, $only))
            @php($latest = $extract->takes->first())
            @php($take = $extract->take)
            <tr class="hit"><td><a href="/m/{{ $page->migration->id }}/sources/extracts/{{ $extract->id }}">{{ $extract->name }}</a>@if ($take)<small>{{ $take->file_name }}</small>@endif</td>
                @if ($take)
                    <td class="n">{{ number_format($take->rows) }}</td><td @class(['n', 'bad' => $take->source_rows !== $take->rows])>{{ number_format($take->source_rows) }}</td><td class="n">{{ count($extract->columns) }}</td>
                    <td class="whitespace-nowrap">{{ $extract->reader['encoding'] }}, {{ [',' => 'comma', ';' => 'semicolon', '|' => 'bar'][$extract->reader['delimiter']] ?? $extract->reader['delimiter'] }}</td><td class="n">{{ $take->number }}</td><td class="whitespace-nowrap">{{ $take->taken_at->format('j M H:i') }}</td><td class="n">{{ number_format($take->bytes) }}</td>
                    <td><code title="{{ $take->checksum }}">{{ substr($take->checksum, 0, 8) }}</code></td>
                    <td class="n">@if ($take->remarks)<a href="/m/{{ $page->migration->id }}/sources/extracts/{{ $extract->id }}">{{ count($take->remarks) }}</a>@else<span class="zero">0</span>@endif</td>
                @else
                    <td colspan="9">@if ($latest?->state === 'failed')<span class="bad">{{ $latest->error }}</span>@elseif ($latest)being read@else nothing frozen yet @if ($extract->origin)(expects <code>{{ $extract->origin }}</code>)@endif @endif</td>
                @endif
            </tr>
            @if ($take && $latest && $latest->id !== $take->id && $latest->state === 'failed')<tr><td></td><td colspan="9" class="bad">Take {{ $latest->number }} ({{ $latest->file_name }}) was not read: {{ $latest->error }} The extract keeps take {{ $take->number }}.</td></tr>@endif
        @empty
            <tr><td colspan="10">No extract yet.</td></tr>
        @endforelse
        </tbody>
    </table>
@endforeach
@can('work', $page->migration)
<h2>Add a legacy system</h2>
<form class="panel grid-form" method="post" action="/m/{{ $page->migration->id }}/sources">@csrf
    <div class="stack"><label for="code">Short code</label><input id="code" name="code" maxlength="12" value="{{ old('code') }}" required></div>
    <div class="stack"><label for="name">Name</label><input id="name" name="name" value="{{ old('name') }}" required></div>
    <div class="stack"><label for="notes">Notes</label><input id="notes" name="notes" value="{{ old('notes') }}"></div>
    <div><button class="btn">Add the system</button></div>
</form>
@endcan
</x-layouts.app>
