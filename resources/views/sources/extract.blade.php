<x-layouts.app :page="$page" :title="$extract->name">
@php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
@php($columns = $extract->tidyColumns()->all)
@php($width = 24)
<div class="head"><div><h1><code>{{ $extract->source->code }}</code> {{ $extract->name }}</h1>
    @if ($take)<p>Take {{ $take->number }} of {{ $take->file_name }}, {{ $take->taken_at->format('j F Y H:i') }} UTC: {{ number_format($take->rows) }} rows, {{ count($columns) }} columns, {{ number_format($take->bytes) }} bytes. By its lines alone the file holds {{ number_format($take->source_rows) }} rows.<br>SHA-256 <code>{{ $take->checksum }}</code></p>@endif</div>
    <div class="actions"><a class="btn" href="{{ $page->url('sources') }}">All sources</a></div></div>
@if ($latest && $latest->id !== $take?->id)@include('sources.progress', ['take' => $latest, 'migration' => $page->migration])@endif
@if ($take)
    @foreach ($take->remarks ?? [] as $remark)<div class="note">{{ $remark }}</div>@endforeach
    @if ($values)
        <h2>{{ $values['column']->header }}</h2>
        @if ($values['rows']->isEmpty())<p class="quiet mb-2">More than {{ number_format(\Baggage\Core\Profiling\ColumnTally::BOUND) }} different values, or none; they are not counted one by one.</p>
        @else<table class="sheet"><thead><tr><th>Value</th><th class="n">Rows</th></tr></thead><tbody>@foreach ($values['rows'] as $value)<tr><td><x-raw :value="$value->value"/></td><td class="n">{{ number_format($value->n) }}</td></tr>@endforeach</tbody></table>@endif
    @endif
    <h2>Columns</h2>
    <div class="scroll-x" tabindex="0" role="region" aria-label="Columns"><table class="sheet"><thead><tr><th>Header</th><th>Name in rules</th><th class="n">Filled</th><th class="n">Blank</th><th class="n">Distinct</th><th>First values</th></tr></thead><tbody>
    @foreach (array_slice($columns, $from, $width) as $column)
        @php($profile = $take->profile[$column->position] ?? ['filled' => 0, 'distinct' => null, 'examples' => []])
        <tr><td><a href="{{ $here }}?column={{ urlencode($column->header) }}">{{ $column->header }}</a></td><td><code>{{ $column->name }}</code></td><td class="n">{{ number_format($profile['filled']) }}</td><td class="n">{{ number_format($take->rows - $profile['filled']) }}</td>
            <td class="n">{{ $profile['distinct'] === null ? 'over '.number_format(\Baggage\Core\Profiling\ColumnTally::BOUND) : number_format($profile['distinct']) }}</td><td>@foreach ($profile['examples'] as $example)<x-raw :value="$example"/>&ensp;@endforeach</td></tr>
    @endforeach</tbody></table></div>
    @if (count($columns) > $width)<p class="row mt-2">Columns {{ $from + 1 }} to {{ min(count($columns), $from + $width) }} of {{ number_format(count($columns)) }}.
        @if ($from > 0)<a class="btn small" href="{{ $here }}?from={{ max(0, $from - $width) }}&after={{ $after }}">Columns before</a>@endif
        @if ($from + $width < count($columns))<a class="btn small" href="{{ $here }}?from={{ $from + $width }}&after={{ $after }}">Columns after</a>@endif</p>@endif
    <h2>Rows</h2>
    <form class="row mb-2" action="{{ $here }}"><label for="after">After row</label><input id="after" name="after" type="number" min="0" max="{{ $take->rows }}" value="{{ $after }}"><input type="hidden" name="from" value="{{ $from }}"><button class="btn small">Show</button></form>
    <div class="scroll-x" tabindex="0" role="region" aria-label="Rows"><table class="sheet"><thead><tr><th class="n">Row</th><th class="n">Line</th>@foreach (array_slice($columns, $from, $width) as $column)<th>{{ $column->header }}</th>@endforeach</tr></thead><tbody>
    @foreach ($rows as [$number, $row])
        <tr><td class="n">{{ number_format($number) }}</td><td class="n zero">{{ number_format($row->line) }}</td>@foreach (array_slice($columns, $from, $width) as $column)<td><x-raw :value="$row->cells[$column->position] ?? null"/></td>@endforeach
            @if (count($row->cells) !== count($columns))<td class="bad whitespace-nowrap">{{ count($row->cells) }} cells</td>@endif</tr>
    @endforeach</tbody></table></div>
    @if ($rows->isNotEmpty() && $rows->last()[0] < $take->rows)<p class="mt-2"><a class="btn small" href="{{ $here }}?after={{ $rows->last()[0] }}&from={{ $from }}">Rows after {{ number_format($rows->last()[0]) }}</a></p>@endif
@endif
</x-layouts.app>
