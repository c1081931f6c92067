<x-layouts.app :page="$page" title="Runs">
  @php($pass = $page->pass)
  @php($notAsked = array_sum($page->notAsked()))
  @php([$byRule, $byCorrection] = $page->stale())
  @php($ending = $page->round?->hasEnded())
  <div class="head" id="due">
    <div>
      <h1>{{ $page->round ? $page->round->label() : 'No round yet' }}</h1>
      <p>
        @if ($page->round)A {{ $page->round->kind }} into the connection
          "{{ $page->round->lane->target->name }}", begun {{ $say::when($page->round->created_at, 'full') }}.
          {{ $page->round->note }}
          @if ($page->round->lane?->earlier)
            Its rows are the records {{ $page->round->lane->earlier->round?->name }} made of their legacy keys.
          @endif
          @foreach ($page->round->parameters ?? [] as $name => $value)
            <code>{{ $name }}</code> is <code>{{ $value }}</code>.
          @endforeach
          @if ($ending)
            <b>{{ ucfirst($page->round->ended_as->value) }}</b>
            {{ $say::when($page->round->ended_at, 'full') }}{{ $ended ? " by $ended" : '' }}:
            {{ $page->round->ended_because }}
          @endif
          @if ($page->isCountingDue())
            <span class="wait" hx-get="{{ request()->fullUrl() }}" hx-trigger="load delay:1s" hx-select="#due"
              hx-target="#due" hx-swap="outerHTML">Something was changed: which rows are due is being worked out.</span>
          @endif
        @else
          A round is one complete attempt: it writes into one target and keeps its own key crosswalk and outcomes.
        @endif
      </p>
    </div>
    @can('work', $page->migration)<div class="actions">
        <x-again :$page />
        @if ($notAsked > 0)
          <form method="post" action="/m/{{ $page->migration->id }}/runs/again">@csrf<x-round :$page /><input
              type="hidden" name="all" value="1"><button class="btn">Load the
              {{ $say->count($notAsked, 'row') }} not asked
              for
              too</button></form>
        @endif
        @if ($pass?->canResume() && !$ending)
          <form method="post" action="/m/{{ $page->migration->id }}/passes/{{ $pass->id }}/resume">@csrf<button
              class="btn main">Resume pass {{ $pass->number }}</button></form>
          @if ($pass->kind->name !== 'BackOut')
            <form method="post" action="/m/{{ $page->migration->id }}/passes/{{ $pass->id }}/end">@csrf<button
                class="btn" title="What it loaded stands. The rows it did not come to were not asked for.">End pass
                {{ $pass->number }} here</button></form>
          @endif
        @endif
        @if ($pass?->state->value === 'running' && !$say->isWorkedOn($pass))
          <form method="post" action="/m/{{ $page->migration->id }}/passes/{{ $pass->id }}/resume">@csrf<span
              class="wait">No worker is at work on it.</span> <button class="btn main">Take pass {{ $pass->number }} up
              again</button></form>
        @endif
    </div>@endcan
  </div>
  <x-works :works="$works" :m="$page->migration" />
  @if ($dryRuns->isNotEmpty())
    <p class="quiet mb-1">Dry runs:
      @foreach ($dryRuns as $run)
        <a class="linkish" href="/m/{{ $page->migration->id }}/dry-runs/{{ $run->id }}">{{ $run->title }},
          {{ $say::when($run->created_at, 'short') }}</a>{{ $run->isGoing() ? ', at work' : '' }}{{ $loop->last ? '.' : ';' }}
      @endforeach
    </p>
  @endif
  @if ($page->notInRound()->isNotEmpty())
    <div class="note">{{ $page->notInRound()->pluck('name')->join(', ', ' and ') }}
      {{ $page->notInRound()->count() === 1 ? 'is' : 'are' }} not in this round: added after it was begun. A
      delta, or the next round, loads
      {{ $page->notInRound()->count() === 1 ? 'it' : 'them' }} too.</div>
  @endif
  @if ($page->round?->lane?->is_set_back->name === 'Yes' && !$ending)
    <div class="note bad">The target was set back: it does not know this round any more, so no pass may write. End the
      round below, or have its records looked for.
      @if (auth()->user()->can('accept', $page->migration))
        <form class="row mt-1" method="post" action="/m/{{ $page->migration->id }}/runs/records">@csrf<x-round
            :$page /><button class="btn small">Look for every record by its key</button></form>
      @endif
    </div>
  @endif
  @if ($byRule + $byCorrection > 0)
    <div class="note">Changed since they were loaded:
      @if ($byRule > 0)
        rules or codes behind at most {{ $say->count($byRule, 'record') }}{{ $byCorrection > 0 ? ', and' : '.' }}
      @endif
      @if ($byCorrection > 0)
        cells of {{ $say->count($byCorrection, 'row') }}.
      @endif
      The records are as they were made until a delta sends what differs.
    </div>
  @endif
  @if ($newer)
    <div class="note">Newer takes were read; this round stays with those it has until a delta takes it to them.
      <x-table :table="$newerTable" label="Newer takes">
        @foreach ($newerTable->rows() as $t)
          <tr>
            <td><a class="linkish"
                href="/m/{{ $page->migration->id }}/sources/extracts/{{ $t['extract'] }}">{{ $t['name'] }}</a>
            </td>
            <td class="n">{{ $t['worked_on'] }}</td>
            <td class="n">{{ $t['number'] }}</td>
            @if ($t['added'] === null && $t['gone'] === null)
              <td colspan="3" class="quiet">not compared yet</td>
            @else
              <td class="n">{{ number_format($t['added']) }}</td>
              <td class="n">{{ $t['changed'] === null ? '' : number_format($t['changed']) }}</td>
              <td class="n">{{ number_format($t['gone']) }}</td>
            @endif
          </tr>
        @endforeach
      </x-table>
    </div>
  @endif
  @php($over = $ending ? 0 : $page->leftOver())
  @if ($over > 0)
    <div class="note bad">{{ $say->count($over, 'row') }} that differ{{ $over === 1 ? 's' : '' }}
      {{ $over === 1 ? 'was' : 'were' }} found by a delta that was ended before it sent
      {{ $over === 1 ? 'it' : 'them' }}: run a delta.</div>
  @endif
  @if (($newer || $byRule + $byCorrection + $over > 0 || $page->notInRound()->isNotEmpty()) && $pass && !$ending)
    @can('work', $page->migration)
      @php($removing = $page->removing())
      <form class="panel row" method="post" action="/m/{{ $page->migration->id }}/runs/delta">@csrf<x-round :$page />
        <label><input type="checkbox" name="full" value="1"> look at all rows anew</label>
        @if ($newer)
          <label><input type="checkbox" name="keep_takes" value="1"> stay with the takes it has</label>
        @endif
        @if ($removing->isNotEmpty())
          <label><input type="checkbox" name="removes" value="1"> remove records of rows delivered no more
            ({{ $removing->pluck('name')->join(', ', ' and ') }})</label>
        @endif
        @if ($page->round->kind === 'cutover')
          <x-confirm id="delta-current" />
        @endif
        <button class="btn main" @disabled($pass->isGoing() || $pass->canResume())>Run a delta</button>
        <button class="btn" formaction="/m/{{ $page->migration->id }}/dry-runs" name="delta" value="1"
          @disabled($pass->isGoing() || $pass->canResume()) title="Says what it would find and send; nothing is written">Dry run</button>
        <span class="quiet">What came, changed and went is sent, and what newer rules make of rows; the rest is left
          as it is.</span>
      </form>
    @endcan
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
        <label for="name">New round</label><input id="name" name="name"
          value="{{ old('describe') ? $next : old('name', $next) }}" pattern="[a-z0-9][a-z0-9\-]*" maxlength="60"
          required title="small letters, digits and hyphens">
        <label for="kind">as</label><select id="kind" name="kind">
          <option value="rehearsal">rehearsal</option>
          @can('cutover', $page->migration)
            <option value="cutover" @selected(old('kind') === 'cutover')>cutover</option>
          @endcan
        </select>
        <label for="target">into</label><select id="target" name="target">
          @foreach ($targets as $target)
            <option value="{{ $target->id }}">
              {{ $target->name }}{{ $target->from_command_line ? '' : " ($target->database)" }}</option>
          @endforeach
        </select>
      </div>
      @can('cutover', $page->migration)
        <x-confirm id="begin-current" :required="false" class="for-cutover mt-2" />
      @endcan
      @if ($parameters->isNotEmpty())
        <div class="row mt-2">
          @foreach ($parameters as $p)
            <label for="parameter-{{ $p->id }}">{{ $p->prompt }}</label><input
              id="parameter-{{ $p->id }}" name="parameters[{{ $p->name }}]"
              value="{{ old('parameters')[$p->name] ?? $p->default_value }}" title="parameter('{{ $p->name }}')">
          @endforeach
        </div>
      @endif
      @if (session('inUse'))
        <p class="mt-2"><label class="row"><input type="checkbox" name="anyway" value="1"> The records
            that
            are
            there
            already are meant to be there: the new round makes its own beside them</label></p>
        @if ($earlier->isNotEmpty())
          <p class="mt-1 row"><label for="against">or its rows are the records that were made of their legacy keys
              by</label><select id="against" name="against">
              <option value="">no round</option>
              @foreach ($earlier as $r)
                <option value="{{ $r->id }}" @selected((int) old('against') === $r->id)>{{ $r->name }}</option>
              @endforeach
            </select></p>
        @endif
      @endif
      @if ($page->loads()->count() > 1)
        <details class="mt-2">
          <summary>Leave loads out of the first pass</summary>
          <p class="quiet">Their rows are not asked for; rows that need them are held until they are loaded.</p>
          @foreach ($page->all() as $l)
            <label class="row"><input type="checkbox" name="without[]" value="{{ $l->id }}"
                @checked(in_array((string) $l->id, (array) old('without', []), true))> {{ $l->name }}</label>
          @endforeach
        </details>
      @endif
      <p class="mt-3 row"><button class="btn {{ $page->round ? '' : 'main' }}" @disabled($pass?->isGoing())>Load
          {{ number_format($page->all()->sum('rows')) }}
          rows{{ $page->entity ? ' of all entities' : '' }}</button>
        @if ($page->entity && $page->loads()->isNotEmpty())
          <button class="btn" name="only" value="{{ $page->entity->name }}" @disabled($pass?->isGoing())
            title="Rows whose parents are not loaded are held">Load
            {{ number_format($page->loads()->sum('rows')) }} rows of {{ $say->label($page->entity->name) }}
            alone</button>
        @endif
        <button class="btn" formaction="/m/{{ $page->migration->id }}/dry-runs" formnovalidate
          @disabled($pass?->isGoing()) title="Says what would become of all rows; nothing is written">Dry run</button>
        <span class="quiet">{{ $room }}</span>
      </p>
    </form>
    <div class="panel grid gap-2">
      @if ($page->round)
        <details @if ($errors->has('name') && old('describe')) open @endif>
          <summary>Rename or describe {{ $page->round->label() }}</summary>
          <form class="row mt-1" method="post" action="/m/{{ $page->migration->id }}/runs/describe">@csrf<x-round
              :$page /><x-was :of="$page->round" :keys="['name', 'note']" /><input type="hidden" name="describe"
              value="1"><label for="round-name">name</label><input id="round-name" name="name"
              value="{{ old('describe') ? old('name') : $page->round->name }}" pattern="[a-z0-9][a-z0-9\-]*"
              maxlength="60" required title="small letters, digits and hyphens"><label for="round-note">what it is
              for</label><input id="round-note" name="note" maxlength="1000" size="60"
              value="{{ old('describe') ? old('note') : $page->round->note }}"><button class="btn small">Keep</button>
            <span class="quiet">The command line finds it by its name.</span>
          </form>
        </details>
      @endif
      @if ($page->round && !$ending && !$pass?->isGoing())
        <details>
          <summary>End {{ $page->round->label() }}</summary>
          <form class="row mt-1" method="post" action="/m/{{ $page->migration->id }}/runs/end">@csrf<x-round
              :$page />
            <label for="as">as</label><select id="as" name="as">
              <option value="closed">closed: it has done what it was for</option>
              <option value="abandoned">abandoned: it is not gone on with</option>
            </select>
            <label for="end-reason">because</label><input id="end-reason" name="reason" value="{{ old('reason') }}"
              required>
            @if ($page->round->kind === 'cutover')
              <x-confirm id="end-current" />
            @endif
            <button class="btn small">End the round</button>
            <span class="quiet">Its figures stay as they are; nothing of it is due any more, and it is no longer to be
              taken
              back.</span>
          </form>
        </details>
      @endif
      @if ($page->round)
        <p><x-mend :m="$page->migration" kind="round" :id="$page->round->id" :label="'Remove ' . $page->round->label()" /></p>
      @endif
    </div>
  @endcan
  @include('runs.passes', ['oob' => false])
</x-layouts.app>
