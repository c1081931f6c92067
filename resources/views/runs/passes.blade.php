<div id="passes" @if ($oob) hx-swap-oob="outerHTML" @endif>
  @foreach ($passes as $p)
    @php($view = $say->progress($page, $p))
    <h2>Pass {{ $p->number }}:
      {{ $tell->pass($p, $passes) }}, {{ $p->stateInWords() }}
    </h2>
    @if ($p->backed_out_by)
      <p class="mb-1">Taken back by pass {{ $passes->firstWhere('id', $p->backed_out_by)?->number }}.</p>
    @endif
    @if ($p->left_records > 0)
      <details class="note bad" open>
        <summary>{{ $say->count($p->left_records, 'record') }}
          {{ $tell->left($p) }}
        </summary>
        @foreach ($left[$p->id] ?? [] as $l)
          @php($of = $page->all()->get($l->load_id))
          <p>{{ $of?->name }}, row <a class="linkish"
              href="/m/{{ $page->migration->id }}/rows/{{ $l->load_id }}/{{ $l->item }}">{{ number_format($l->item) }}</a>,
            {{ $l->target_key === '' ? '' : "record $l->target_key" }}: {{ $l->why }}</p>
        @endforeach
        @if ($p->left_records > count($left[$p->id] ?? []))
          <p class="quiet">{{ number_format($p->left_records - count($left[$p->id] ?? [])) }} more: the command line
            lists
            them.</p>
        @endif
      </details>
    @endif
    <p class="quiet mb-1">{{ $p->started_at ? $say::when($p->started_at, 'second') : 'not begun' }},
      {{ number_format($view->done) }}
      of {{ number_format($view->total) }} rows, {{ $view->elapsed }}
      elapsed{{ isset($people[$p->user_id]) ? ', by ' . $people[$p->user_id] : '' }}.</p>
    @if ($p->interrupted)
      <p class="quiet mb-1">Interrupted {{ $p->interrupted === 1 ? 'once' : $p->interrupted . ' times' }}, the last time
        noticed {{ $say::when($p->interrupted_at, 'second') }}; it went on where it was.</p>
    @endif
    @if ($p->error)
      <div class="note bad">{{ $p->error }}</div>
    @endif
    @if ($p->told !== [])
      <div class="note">The target is not as described, and may refuse rows for it:
        @foreach ($p->told as $different)
          <br>{{ $different }}
        @endforeach
      </div>
    @endif
    @php($lines = $logs[$p->id] ?? [])
    @if ($lines && $lines[0]->next_try_at && $p->isGoing())
      <div class="note bad">{{ $lines[0]->what }} Next try at {{ $say::when($lines[0]->next_try_at, 'counted') }}.
      </div>
    @endif
    @if ($lines)
      <details class="mb-1">
        <summary>Log, {{ $say->count(count($lines), 'line') }}</summary>
        @foreach ($lines as $line)
          <p class="quiet">{{ $say::when($line->at, 'second') }}: {{ $line->what }}
            @if ($line->next_try_at)
              Next try at {{ $say::when($line->next_try_at, 'counted') }}.
            @endif
          </p>
        @endforeach
      </details>
    @endif
    @if ($p->compared)
      <p @class(['mb-1', 'quiet' => $p->compared['kinds'] === []])>{{ $tell->compared($p) }} <a class="linkish"
          href="/m/{{ $page->migration->id }}/dry-runs/{{ $p->compared['run'] }}">The dry run</a></p>
    @endif
    @if ($timetables[$p->id] ?? null)
      <x-timetable :table="$timetables[$p->id]" :page="$page" :label="'Pass ' . $p->number" />
    @endif
    @php($loads = $tables["pass$p->number"])
    <x-table :table="$loads" tight :label="'Loads of pass ' . $p->number" empty="No load had rows of this.">
      @foreach ($loads->rows() as $l)
        @php($of = $page->all()->get($l->load_id))
        <tr>
          <td class="n">{{ $l->wave }}</td>
          <td>{{ $of?->name }}@if ($l->error)
              <small class="bad">{{ $l->error }}</small>
            @endif
          </td>
          <td>{{ $l->state->value }}</td>
          @foreach ($p->kind->name === 'Delta' ? $say->compared() : [] as $of)
            <td @class(['n', 'zero' => ($l->compared[$of] ?? 0) === 0])>
              {{ isset($l->compared[$of]) ? number_format($l->compared[$of]) : '' }}</td>
          @endforeach
          <td class="n">{{ $p->kind->name === 'Retry' ? '' : number_format($l->rows_total) }}</td>
          <td class="n">{{ number_format($l->rows_done) }}</td>
          @foreach ($say->counted($p) as $o => $title)
            @php($n = $l->counts[$o] ?? 0)<td @class(['n', 'zero' => $n === 0])>{{ number_format($n) }}</td>
          @endforeach
          <td class="n">
            {{ number_format((float) $l->seconds, 1) }}</td>
        </tr>
      @endforeach
    </x-table>
    @if ($tell->mayBeBackedOut($page, $p))
      @can('work', $page->migration)
        <details class="mb-2">
          <summary>Take back pass {{ $p->number }}{{ $tell->andLater($p, $passes) }}</summary>
          <form class="row mt-1" method="post"
            action="/m/{{ $page->migration->id }}/passes/{{ $p->id }}/back-out">@csrf
            <span>{{ $tell->wouldBackOut($p, $passes) }}</span>
            @if ($page->round->kind === 'cutover')
              <x-confirm id="back-out-{{ $p->number }}" />
            @endif
            <button class="btn small">Take it back</button>
            <span class="quiet">Children go before their parents. What somebody else changed since is left and listed;
              what
              was decided about rows stays.</span>
          </form>
        </details>
      @endcan
    @endif
  @endforeach
  @if ($passes->isNotEmpty())
    <p class="quiet mt-2">Counts of a pass are what it did then. What the rows are now stands at <a class="linkish"
        href="{{ $page->url('reconciliation') }}">Reconciliation</a>.</p>
  @endif
</div>
