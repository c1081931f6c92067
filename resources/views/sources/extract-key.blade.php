<x-sources.extract :$page :$extract :$take :$latest show="keys" :open="$openFindings" :all="$allFindings">
@php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}?show=key&of={$key->id}".($blank ? '&blank=1' : ''))
@php($columns = collect($extract->tidyColumns()->all)->sortBy(fn ($c) => in_array($c->header, $headers, true) ? -1 : $c->position)->values())
<h2>{{ implode(' + ', $headers) }}: {{ $blank ? \App\View\Page::count($key->blank_rows, 'row').' without it' : \App\View\Page::count($key->duplicate_rows, 'row').' with a key another row has' }}</h2>
<p class="quiet mb-2">{{ $blank ? 'At least one of its cells is blank.' : 'Rows of one key stand together, the first of them too. The key is compared without blanks around it.' }} <a class="linkish" href="/m/{{ $page->migration->id }}/sources/extracts/{{ $extract->id }}?show=keys">All keys</a></p>
<x-sources.rows :rows="$rows" :columns="$columns->take(24)->all()" :width="count($columns)" :mark="$columns[0]->position"/>
@if ($next)<p class="mt-2"><a class="btn small" href="{{ $here }}&from={{ $next }}">The next rows</a></p>@endif
</x-sources.extract>
