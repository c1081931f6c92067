<x-sources.extract :$page :$extract :$take :$latest show="findings" :open="$openFindings" :all="$allFindings">
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  @php($columns = $extract->tidyColumns()->all)
  <h2>{{ $finding->message }}</h2>
  <p class="quiet mb-2">{{ number_format($finding->n) }}
    {{ $finding->n === 1 ? 'row' : 'rows' }}{{ $kept < $finding->n ? ', the first ' . number_format($kept) . ' are kept' : '' }}.
    <a class="linkish" href="{{ $here }}?show=findings#f{{ $finding->id }}">Decide</a>
  </p>
  @php($shown = $tell->columnsBeside($columns, $finding->position))
  <x-sources.rows :rows="$rows" :columns="$shown" :width="count($columns)" :mark="$finding->position" />
  @if ($next)
    <p class="mt-2"><a class="btn small" href="?after={{ $next }}">Rows after {{ number_format($next) }}</a></p>
  @endif
</x-sources.extract>
