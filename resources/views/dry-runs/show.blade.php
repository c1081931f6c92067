<x-layouts.app :page="$page" title="Dry run">
  @php($m = $page->migration)
  @php($at = "/m/{$m->id}/dry-runs/{$run->id}")
  @php($back = $run->given['from'] ?? $page->url($proposed ? 'rejects' : 'runs'))
  <div id="dry-run"
    @if ($run->isGoing()) hx-get="{{ $at }}" hx-select="#dry-run" hx-swap="outerHTML"
    hx-trigger="every 1s" @endif>
    <div class="head">
      <div>
        <h1>{{ $run->title }}</h1>
        <p>
          {{ $proposed ? 'Not made yet: tried on the rows it is about and on those below them.' : 'A dry run: nothing is written.' }}
          @if ($proposed?->reason)
            Because {{ $proposed->reason }}.
          @endif
        </p>
      </div>
      <div class="actions">
        @if ($run->isGoing())
          @can('repair', $m)
            <form method="post" action="{{ $at }}/stop">@csrf<button class="btn">Stop</button></form>
          @endcan
        @elseif ($proposed && !isset($run->given['kept']))
          @can('repair', $m)
            <form method="post" action="{{ $at }}/keep">@csrf<button
                class="btn main">{{ $tell->keeps($proposed) }}</button></form>
          @endcan
        @endif
        <a class="btn"
          href="{{ $back }}">{{ $proposed && !isset($run->given['kept']) ? 'Leave it' : 'Back' }}</a>
      </div>
    </div>
    @if ($run->isGoing())
      <p class="row" role="status">
        {{ $run->state->value === 'queued' ? 'Waits for a worker.' : 'Rows are tried.' }}
        <progress max="{{ max(1, $run->total) }}" value="{{ $run->done }}" aria-label="Rows tried"></progress>
        {{ number_format($run->done) }} of {{ number_format($run->total) }}
        <span class="quiet">{{ $tell->dryRunLeft($run) }}</span>
      </p>
    @elseif ($found === null)
      <p class="note bad">{{ $run->error }}</p>
    @else
      <p class="lead">{{ $found->says() }}</p>
      @foreach ($found->failed as $why)
        <p class="note bad">{{ $why }}</p>
      @endforeach
      @if ($found->unforeseen)
        <p class="note">Only writing shows what these do: {{ implode('; ', $found->unforeseen) }}.</p>
      @endif
      @if ($loads)
        <h2 class="mt-3">By load</h2>
        <x-table :table="$loads" label="What a delta would find and send" empty="No load.">
          @foreach ($loads->rows() as $of)
            <tr>
              <td>{{ $of['load'] }}</td>
              @foreach ($counted as $key => $opens)
                <td @class(['n', 'zero' => ($of[$key] ?? 0) === 0])>
                  @if ($opens && ($of[$key] ?? 0) > 0)
                    <a
                      href="{{ $at }}?load={{ $of['id'] }}&what={{ $opens }}#rows">{{ number_format($of[$key]) }}</a>
                  @else
                    {{ number_format($of[$key] ?? 0) }}
                  @endif
                </td>
              @endforeach
              <td>
                @foreach ($of['fields'] as $field => $n)
                  {{ $field }} <span class="quiet">{{ number_format($n) }}</span>{{ $loop->last ? '' : ',' }}
                @endforeach
              </td>
            </tr>
          @endforeach
        </x-table>
      @endif
      <div class="grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-6 mt-3">
        <div>
          <h2>What would be otherwise</h2>
          <x-table :table="$moves" label="Rows by load" empty="Nothing: every row would be as it is.">
            @foreach ($moves->rows() as $move)
              <tr>
                <td>{{ $move['name'] }}</td>
                <td class="whitespace-nowrap">
                  @if ($move['was'])
                    <x-outcome :outcome="$move['was']" />
                  @else
                    <span class="quiet">not worked on</span>
                  @endif
                </td>
                <td class="whitespace-nowrap"><x-outcome :outcome="$move['outcome']" />
                  @if ($move['was'] === $move['outcome'])
                    <span class="quiet">otherwise</span>
                  @endif
                </td>
                <td class="n"><a
                    href="{{ $at }}?load={{ $move['load'] }}&outcome={{ $move['outcome'] }}#rows">{{ number_format($move['n']) }}</a>
                </td>
              </tr>
            @endforeach
          </x-table>
        </div>
        <div>
          <h2>Why rows would not go through</h2>
          <x-table :table="$causes" label="Causes" empty="None that is new.">
            @foreach ($causes->rows() as $cause)
              <tr>
                <td class="hang"><x-outcome :outcome="$cause['outcome']" :word="false" />{{ $cause['title'] }}</td>
                <td>{{ $cause['name'] }}</td>
                <td class="raw">{{ $cause['field'] }}</td>
                <td class="n">{{ number_format($cause['n']) }}</td>
              </tr>
            @endforeach
          </x-table>
        </div>
      </div>
      @if ($rows)
        <h2 id="rows" class="mt-4">The rows
          @if ($load || $outcome || $what)
            <small class="quiet">{{ $load ? $page->all()->get($load)?->name : '' }} {{ $outcome }}
              {{ ['added' => 'that came', 'changed' => 'whose record would change', 'gone' => 'delivered no more'][$what] ?? '' }}
              <a class="linkish" href="{{ $at }}#rows">all of them</a></small>
          @endif
        </h2>
        <table class="sheet" aria-label="Rows">
          <thead>
            <tr>
              <th>Row</th>
              <th>Load</th>
              <th>Is now</th>
              <th>Would be</th>
              <th>Because</th>
            </tr>
          </thead>
          <tbody>
            @foreach ($rows as $row)
              <tr>
                @php($listed = $page->all()->get($row->load_id))
                <td><x-tag :space="$listed?->space" :legacy="$row->legacy_key" :href="$page->journey($row)" /></td>
                <td>{{ $listed?->name }}, row {{ $row->row_no }}</td>
                <td>{{ $row->was ?? '' }}</td>
                <td><x-outcome :outcome="$row->outcome" /></td>
                <td>{{ $row->message }} @if ($row->value !== null)
                    <x-raw :value="$row->value" />
                  @endif
                  @foreach (json_decode($row->changes ?? '[]', true) as $field => [$now, $then])
                    <div>{{ $field }}: <x-raw :value="$now" /> becomes <x-raw :value="$then" /></div>
                  @endforeach
                </td>
              </tr>
            @endforeach
          </tbody>
        </table>
        @if ($next)
          <p class="mt-1"><a class="btn small" href="{{ $at }}?{{ $query }}#rows"
              rel="next">Next rows</a></p>
        @endif
      @endif
    @endif
  </div>
</x-layouts.app>
