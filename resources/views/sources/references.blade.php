<x-layouts.app :page="$page" title="What hangs on what">
  @php($base = "/m/{$page->migration->id}/sources")
  @php($undecided = $references->where('decision.value', 'found')->count())
  <div class="head">
    <div>
      <h1>What hangs on what</h1>
      <p>{{ $say->count($references->where('decision.value', '<>', 'dismissed')->count(), 'reference') }} between
        extracts, found because all or most values of a column are the key of another extract.
        {{ $undecided > 0 ? number_format($undecided) . ' to decide.' : '' }} Parents stand left; numbers are rows whose
        parent is nowhere.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $base }}">All sources</a></div>
  </div>
  @if ($chart->plates !== [])
    <div class="panel scroll-x" tabindex="0" role="region" aria-label="Chart of references">
      <svg width="{{ $chart->width }}" height="{{ $chart->height }}" role="group"
        aria-label="References between extracts; the table below says the same">
        @foreach ($chart->lines as $line)
          <path d="{{ $line->line->path() }}" @class(['wire', 'found' => !$line->isAccepted()])>
            <title>{{ $line->label() }}</title>
          </path>
        @endforeach
        @foreach ($chart->lines as $line)
          @if ($line->line->gap)
            @php($gap = $line->line->gap)
            <rect class="line-gap" x="{{ $gap->x }}" y="{{ $gap->y }}" width="{{ $gap->width }}"
              height="{{ $gap->height }}" />
            <a
              href="{{ $line->reference->number ? "$base/references?orphans={$line->reference->id}#orphans" : "$base/references" }}"><text
                x="{{ $gap->x + intdiv($gap->width, 2) }}" y="{{ $gap->y + 11 }}" text-anchor="middle"
                class="plate-small orphan">{{ number_format($line->reference->orphan_rows) }}</text></a>
          @endif
        @endforeach
        @foreach ($chart->plates as $p)
          <a href="{{ $base }}/extracts/{{ $p->extract->id }}?show=keys">
            <rect x="{{ $p->box->x }}" y="{{ $p->box->y }}" width="{{ $p->box->width }}"
              height="{{ $p->box->height }}" class="plate" /><text x="{{ $p->box->x + 10 }}"
              y="{{ $p->box->y + 18 }}" class="plate-text">{{ $p->extract->source?->code }}
              {{ $say->short($p->extract->name, 15) }}</text><text x="{{ $p->box->x + 10 }}"
              y="{{ $p->box->y + 34 }}" class="plate-small">{{ number_format($p->extract->take?->rows ?? 0) }}
              rows</text>
          </a>
        @endforeach
      </svg>
    </div>
  @endif
  <x-sources.references :$table :$page />
  @if ($open)
    <h2 id="orphans">{{ implode(' + ', $open->columns) }} of {{ $open->extract->name }}:
      {{ $say->count($open->orphan_rows, 'row') }} whose {{ $open->parent->name }} is nowhere</h2>
    @php($columns = $open->extract->tidyColumns())
    @php($mark = $columns->find($open->columns[0])?->position)
    @php($beside = $tell->columnsBeside($columns->all, null))
    <x-sources.rows :$rows :columns="$beside" :width="$columns->count()" :$mark />
    @if ($next)
      <p class="mt-2"><a class="btn small"
          href="?orphans={{ $open->id }}&after={{ $next }}#orphans">Rows after
          {{ number_format($next) }}</a></p>
    @endif
  @endif
</x-layouts.app>
