<x-layouts.app :page="$page" :title="$line->total->name">
  @php($m = $page->migration)
  @php($t = $line->total)
  @php($at = "/m/{$m->id}/totals/of/{$line->number}")
  @php($cross = $t->parentField !== null)
  <div class="head">
    <div>
      <h1>{{ $t->name }}{{ $group !== null ? ': ' . ($group === '' ? 'no group' : $group) : '' }}</h1>
      <p>{{ ucfirst($t->kind->label()) }} of
        <code>{{ $t->entity }}.{{ $t->field }}</code>{{ $amounts->groupedBy($t) }},
        {{ $t->load ? "over the rows of $t->load" : 'over all loads of ' . $say->label($t->entity) }}. Counted
        {{ $say::when($reckoning->done_at, 'counted') }}.
        @if ($t->tolerance !== '0')
          A difference up to {{ $amounts->said($t->tolerance) }} is accepted: {{ $t->because }}.
        @endif
      </p>
    </div>
    <div class="actions">
      @if ($group !== null)
        <a class="btn" href="{{ $at }}">The whole</a>
      @endif
      <a class="btn" href="{{ $page->url('totals', $page->entity?->name) }}">All totals</a>
    </div>
  </div>
  <x-works :works="$works" :m="$m" />
  @if ($line->error)
    <div class="note bad" role="alert">It was not counted: {{ $line->error }}</div>
  @else
    @php($difference = $figures->difference($t->kind))
    <table class="sheet spread one" aria-label="Both sides">
      <tbody>
        <tr @class(['even' => $difference === '0'])>
          <td class="n page-left">
            {{ $amounts->said($line->adds() ? $figures->expected() : $figures->extremes['legacy'] ?? '') }}<small>legacy
              rows that stand</small></td>
          <td @class(['middle', 'off' => !$figures->holds($t->kind, $t->tolerance)])>{{ $amounts->off($figures, $t) }}</td>
          <td class="page-right">
            {{ $amounts->said($line->adds() ? $figures->sum('target') : $figures->extremes['target'] ?? '') }}<small>their
              records</small></td>
        </tr>
        @if ($cross)
          <tr>
            <td class="n page-left">{{ $amounts->said($figures->sum('parent')) }}<small>{{ $t->parentField }} of their
                parents, legacy; children less this {{ $amounts->said($figures->crossLegacy()) }}</small></td>
            @php($foots = $group === null ? $line->groupsDoNotFoot === 0 : $figures->foots($t->tolerance))
            <td @class(['middle', 'off' => !$foots])>
              {{ $amounts->foots($foots, $group === null ? $line->groupsDoNotFoot : null, $figures) }}
            </td>
            <td class="page-right">{{ $amounts->said($figures->sum('parent target')) }}<small>the same of their
                records;
                children less this {{ $amounts->said($figures->crossTarget()) }}</small></td>
          </tr>
        @endif
      </tbody>
    </table>
    @if ($line->adds())
      <x-bar :bar="$amounts->bar($figures, $t->kind)" :label="$t->name" />
      <h2>What came in, and what became of it</h2>
      <table class="sheet" aria-label="Parts">
        <thead>
          <tr>
            <th>Part</th>
            <th class="n">Rows</th>
            <th class="n">{{ ucfirst($t->kind->label()) }}</th>
            <th class="n">Rows without a value</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($amounts->parts() as $of => $words)
            @php($n = $figures->rows($of))
            @if ($n > 0)
              <tr>
                <td>{{ $words[0] }}</td>
                <td class="n">
                  @if ($group === null)
                    <a href="{{ $amounts->rowsOf($page, $t, $words[1]) }}">{{ number_format($n) }}</a>
                  @elseif ($isListed)
                    <a
                      href="{{ $at }}?group={{ urlencode($group) }}&part={{ urlencode($of) }}#listed">{{ number_format($n) }}</a>
                  @else
                    {{ number_format($n) }}
                  @endif
                </td>
                <td class="n">{{ $amounts->said($figures->sum($of)) }}</td>
                <td class="n zero">{{ number_format($figures->rows("$of none")) }}</td>
              </tr>
            @endif
          @endforeach
        </tbody>
        <tfoot>
          @if ($figures->rows('corrected') > 0)
            <tr>
              <td>Less what corrections added</td>
              <td class="n">{{ number_format($figures->rows('corrected')) }}</td>
              <td class="n">{{ $amounts->said($figures->sum('corrected')) }}</td>
              <td></td>
            </tr>
          @endif
          <tr>
            <td>All rows as read</td>
            <td class="n">{{ number_format($figures->rows('raw')) }}</td>
            <td class="n">{{ $amounts->said($figures->sum('raw')) }}</td>
            <td class="n">{{ number_format($figures->rows('raw none')) }}</td>
          </tr>
        </tfoot>
      </table>
      @if ($figures->rows('then') + $figures->rows('gone') > 0)
        <p class="quiet">Beside the sum, and part of what the records should come to: rows that stand with older
          values,
          by
          what they said then, {{ $amounts->said($figures->sum('then')) }}; rows delivered no more whose record is
          kept,
          {{ $amounts->said($figures->sum('gone')) }}.</p>
      @endif
    @endif
    @if ($groups !== [] || $begins !== '')
      <h2>{{ $say->count($groupCount, 'group') }}, those that differ first</h2>
      <form class="table-line" action="{{ $at }}">
        <label for="begins">Groups that begin with</label><input id="begins" name="begins" size="16"
          value="{{ $begins }}"><button class="btn small">Go</button>
        @if ($begins !== '')
          <a class="linkish" href="{{ $at }}">All groups</a>
        @endif
      </form>
      @if ($groups === [])
        <p class="quiet">No group begins so.</p>
      @endif
      @php($all = ['what' => 'groups', 'reckoning' => $reckoning->id, 'total' => $line->number])
      <x-differences-file :$page :of="$all" label="All groups as .csv" />
      <table class="sheet spread" data-walk aria-label="Groups">
        <thead>
          <tr>
            <th>{{ $t->groupField }}{{ $t->groupBy->value === 'value' ? '' : ', ' . $t->groupBy->value }}</th>
            <th class="n">Legacy</th>
            <th class="middle">Difference</th>
            <th>Records</th>
            @if ($cross)
              <th class="n">Children less parent, legacy</th>
              <th class="n">In the target</th>
            @endif
            <th class="n">Rows that differ</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($groups as $g)
            @php($f = $g['figures'])
            <tr @class(['hit', 'even' => $g['weight'] == 0])>
              <td><a
                  href="{{ $at }}?group={{ urlencode($g['name']) }}"><code>{{ $g['name'] === '' ? 'none' : $g['name'] }}</code></a>
              </td>
              <td class="n page-left">
                {{ $amounts->said($line->adds() ? $f->expected() : $f->extremes['legacy'] ?? '') }}</td>
              <td @class(['middle', 'off' => !$f->holds($t->kind, $t->tolerance)])>{{ $amounts->off($f, $t) }}</td>
              <td class="page-right">
                {{ $amounts->said($line->adds() ? $f->sum('target') : $f->extremes['target'] ?? '') }}</td>
              @if ($cross)
                <td class="n">{{ $amounts->said($f->crossLegacy()) }}</td>
                <td @class(['n', 'bad' => !$f->foots($t->tolerance)])>{{ $amounts->said($f->crossTarget()) }}</td>
              @endif
              <td @class(['n', 'zero' => $f->differ === 0])>{{ number_format($f->differ) }}</td>
            </tr>
          @endforeach
        </tbody>
      </table>
      @if ($moreGroups)
        <p class="mt-2"><a class="btn small"
            href="{{ request()->fullUrlWithQuery(['groups-weight' => $moreGroups['weight'], 'groups-after' => $moreGroups['name']]) }}">The
            next groups</a></p>
      @endif
    @endif
    <h2>
      {{ $amounts->differing($figures) }}
    </h2>
    @if ($rows !== [])
      @php($behind = ['what' => 'rows', 'reckoning' => $reckoning->id, 'total' => $line->number, 'group' => $group])
      <x-differences-file :$page :of="$behind" label="All of them as .csv" />
      <table class="sheet spread" data-walk aria-label="Rows that differ">
        <thead>
          <tr>
            <th>Row</th>
            <th>Group</th>
            <th class="n">The row counts</th>
            <th class="middle">Difference</th>
            <th>Its record</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($rows as $row)
            <tr class="hit">
              <td><a
                  href="/m/{{ $m->id }}/rows/{{ $row->load_id }}/{{ $row->item }}">{{ $page->all()->get($row->load_id)?->name }},
                  row
                  {{ number_format($row->item) }}</a></td>
              <td><code>{{ $row->name }}</code></td>
              <td class="n page-left">{{ $row->legacy === null ? 'nothing' : $amounts->said($row->legacy) }}</td>
              <td class="middle off">{{ $amounts->less($row->target, $row->legacy) }}</td>
              <td class="page-right">{{ $row->target === null ? 'nothing' : $amounts->said($row->target) }}</td>
            </tr>
          @endforeach
        </tbody>
      </table>
      @if ($moreRows)
        <p class="mt-2"><a class="btn small"
            href="{{ request()->fullUrlWithQuery(['rows-weight' => $moreRows->weight, 'rows-after' => $moreRows->number]) }}">The
            next rows</a></p>
      @endif
    @endif
    @includeWhen($group !== null, 'totals.listed')
  @endif
</x-layouts.app>
