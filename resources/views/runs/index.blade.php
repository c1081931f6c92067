<x-layouts.app :page="$page" title="Runs">
  @php($pass = $page->pass)
  @php($pending = $page->repaired())
  <div class="head">
    <div>
      <h1>{{ $page->round ? $page->round->label() : 'No round yet' }}</h1>
      <p>
        @if ($page->round)A {{ $page->round->kind }} into the connection
          "{{ $page->round->target->name }}", begun {{ $page->round->created_at->format('j F Y H:i') }} UTC.
          @foreach ($page->round->parameters ?? [] as $name => $value)
            <code>{{ $name }}</code> is <code>{{ $value }}</code>.
          @endforeach
        @else
          A round is one complete attempt: it writes into one target and keeps its own key crosswalk and outcomes.
        @endif
      </p>
    </div>
    @can('work', $page->migration)<div class="actions">
        @if ($pending > 0)
          <form method="post" action="/m/{{ $page->migration->id }}/runs/again">@csrf<button class="btn main">Load
              {{ $say->count($pending, 'row') }} again</button></form>
        @endif
        @if ($pass?->canResume())
          <form method="post" action="/m/{{ $page->migration->id }}/passes/{{ $pass->id }}/resume">@csrf<button
              class="btn main">Resume pass {{ $pass->number }}</button></form>
        @endif
        @if ($pass?->state->value === 'running' && !$say->isWorkedOn($pass))
          <form method="post" action="/m/{{ $page->migration->id }}/passes/{{ $pass->id }}/resume">@csrf<span
              class="wait">No worker is at work on it.</span> <button class="btn main">Take pass {{ $pass->number }} up
              again</button></form>
        @endif
    </div>@endcan
  </div>
  @if ($page->notInRound()->isNotEmpty())
    <div class="note">{{ $page->notInRound()->pluck('name')->join(', ', ' and ') }}
      {{ $page->notInRound()->count() === 1 ? 'is' : 'are' }} not in this round: added after it was begun. The next
      round loads
      {{ $page->notInRound()->count() === 1 ? 'it' : 'them' }} too.</div>
  @endif
  @php($findings = $page->openFindings())
  @if ($findings > 0)
    <div class="note"><a class="linkish"
        href="{{ $page->url('sources') }}">{{ $say->count($findings, 'finding') }}</a> in the sources
      {{ $findings === 1 ? 'is' : 'are' }} open: accept them, have them fixed at source, or handle them by rule before
      the cutover.</div>
  @endif
  @can('work', $page->migration)
    <form class="panel" method="post" action="/m/{{ $page->migration->id }}/runs/rounds">@csrf
      <div class="row">
        <label for="name">New round</label><input id="name" name="name" value="{{ old('name', $next) }}"
          pattern="[a-z0-9][a-z0-9\-]*" maxlength="60" required title="small letters, digits and hyphens">
        <label for="kind">as</label><select id="kind" name="kind">
          <option value="rehearsal">rehearsal</option>
          <option value="cutover">cutover</option>
        </select>
        <label for="target">into</label><select id="target" name="target">
          @foreach ($targets as $target)
            <option value="{{ $target->id }}">
              {{ $target->name }}{{ $target->from_command_line ? '' : " ($target->database)" }}</option>
          @endforeach
        </select>
        <button class="btn {{ $page->round ? '' : 'main' }}" @disabled($pass?->isGoing())>Load
          {{ number_format($page->loads()->sum(fn($l) => $l->extract->take?->rows ?? 0)) }} rows</button>
      </div>
      @if ($parameters->isNotEmpty())
        <div class="row mt-2">
          @foreach ($parameters as $p)
            <label for="parameter-{{ $p->id }}">{{ $p->prompt }}</label><input
              id="parameter-{{ $p->id }}" name="parameters[{{ $p->name }}]"
              value="{{ old('parameters')[$p->name] ?? $p->default_value }}" title="parameter('{{ $p->name }}')">
          @endforeach
        </div>
      @endif
    </form>
  @endcan
  @foreach ($passes as $p)
    @php($view = $say->progress($p))
    <h2>Pass {{ $p->number }}: {{ $p->kind->name === 'First' ? 'all loads' : 'repaired rows' }},
      {{ $p->state->value }}
    </h2>
    <p class="quiet mb-1">{{ $p->started_at?->format('j M H:i:s') ?? 'not begun' }}, {{ number_format($view->done) }}
      of {{ number_format($view->total) }} rows, {{ $view->elapsed }}
      elapsed{{ $p->user ? ', by ' . $p->user->name : '' }}.</p>
    @if ($p->error)
      <div class="note bad">{{ $p->error }}</div>
    @endif
    <table class="sheet">
      <thead>
        <tr>
          <th class="n">Wave</th>
          <th>Load</th>
          <th>State</th>
          <th class="n">Rows</th>
          <th class="n">Done</th>
          @foreach (['loaded', 'updated', 'unchanged', 'merged', 'excluded', 'held', 'rejected'] as $o)
            <th class="n">{{ ucfirst($o) }}</th>
          @endforeach
          <th class="n">
            Seconds</th>
        </tr>
      </thead>
      <tbody>
        @foreach ($p->passLoads->sortBy(['wave', 'id']) as $l)
          @continue($page->entity && $l->ofLoad->entity_id !== $page->entity->id)
          @continue($p->kind->name === 'Retry' && $l->rows_done === 0 && $l->state->value === 'done')
          <tr>
            <td class="n">{{ $l->wave }}</td>
            <td>{{ $l->ofLoad->name }}@if ($l->error)
                <small class="bad">{{ $l->error }}</small>
              @endif
            </td>
            <td>{{ $l->state->value }}</td>
            <td class="n">{{ $p->kind->name === 'Retry' ? '' : number_format($l->rows_total) }}</td>
            <td class="n">{{ number_format($l->rows_done) }}</td>
            @foreach (['loaded', 'updated', 'unchanged', 'merged', 'excluded', 'held', 'rejected'] as $o)
              @php($n = $l->counts[$o] ?? 0)<td @class(['n', 'zero' => $n === 0])>{{ number_format($n) }}</td>
            @endforeach
            <td class="n">
              {{ number_format((float) $l->seconds, 1) }}</td>
          </tr>
        @endforeach
      </tbody>
    </table>
  @endforeach
  @if ($passes->isNotEmpty())
    <p class="quiet mt-2">Counts of a pass are what it did then. What the rows are now stands at <a class="linkish"
        href="{{ $page->url('reconciliation') }}">Reconciliation</a>.</p>
  @endif
</x-layouts.app>
