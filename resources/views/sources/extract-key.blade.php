<x-sources.extract :$page :$extract :$take :$latest show="keys" :open="$openFindings" :all="$allFindings">
  @php($base = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  @php($columns = $tell->keyFirst($extract->tidyColumns()->all, $key->headers))
  <h2>{{ implode(' + ', $key->headers) }}: {{ $say->count($key->count, 'row') }}
    {{ $key->blank ? 'without it' : 'with a key another row has' }}</h2>
  <p class="quiet mb-2">
    {{ $tell::KEY_ROWS[$key->blank] }}
    <a class="linkish" href="{{ $base }}?show=keys">All keys</a>
  </p>
  <x-sources.rows :rows="$key->rows" :columns="array_slice($columns, 0, 24)" :width="count($columns)" :mark="$columns[0]->position" />
  @if ($key->next)
    <p class="mt-2"><a class="btn small"
        href="{{ $base }}?show=key&of={{ $key->id }}{{ $key->blank ? '&blank=1' : '' }}&from={{ $key->next }}">The
        next rows</a></p>
  @endif
</x-sources.extract>
