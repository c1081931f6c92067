<x-sources.extract :$page :$extract :$take :$latest show="keys" :open="$openFindings" :all="$allFindings">
@php($base = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
@php($columns = collect($extract->tidyColumns()->all)->sortBy(fn ($c) => in_array($c->header, $key->headers, true) ? -1 : $c->position)->values())
<h2>{{ implode(' + ', $key->headers) }}: {{ \App\View\Page::count($key->count, 'row') }} {{ $key->blank ? 'without it' : 'with a key another row has' }}</h2>
<p class="quiet mb-2">{{ $key->blank ? 'At least one of its cells is blank.' : 'Rows of one key stand together, the first of them too. The key is compared without blanks around it.' }} <a class="linkish" href="{{ $base }}?show=keys">All keys</a></p>
<x-sources.rows :rows="$key->rows" :columns="$columns->take(24)->all()" :width="count($columns)" :mark="$columns[0]->position"/>
@if ($key->next)<p class="mt-2"><a class="btn small" href="{{ $base }}?show=key&of={{ $key->id }}{{ $key->blank ? '&blank=1' : '' }}&from={{ $key->next }}">The next rows</a></p>@endif
</x-sources.extract>
