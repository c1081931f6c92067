<x-layouts.app :page="$page" title="Rows">
  @php($here = $page->url('rows', $page->entity?->name))
  @php($kept = array_filter(request()->only(['cause', 'alike', 'which', 'waits', 'open', 'made', 'older', 'standing']), 'is_string'))
  <div class="head">
    <div>
      <h1>{{ $load?->name ?? ($page->entity ? $say->label($page->entity->name) : 'All entities') }}:
        {{ $tell->rowsTitle($filter) }}
      </h1>
      <p>{{ $tell->rowsOf($filter) }}</p>
    </div>
    <div class="actions">
      @if ($page->round)
        <form method="post" action="{{ request()->fullUrlWithQuery(['after' => null]) }}">@csrf<x-round :$page /><button
            class="btn">All of them as .csv</button></form>
      @endif
      <a class="btn" href="{{ $page->url('reconciliation', $page->entity?->name) }}">Back to the proof</a>
    </div>
  </div>
  <x-works :works="$works" :m="$page->migration" />
  <form class="table-line" action="{{ $here }}">
    @foreach ($kept as $key => $value)
      <input type="hidden" name="{{ $key }}" value="{{ $value }}">
    @endforeach
    <label for="of-load">Load</label><select id="of-load" name="load" data-send>
      <option value="">all</option>
      @foreach ($page->loads() as $l)
        <option value="{{ $l->id }}" @selected($load?->id === $l->id)>{{ $l->name }}</option>
      @endforeach
    </select>
    @if ($kept === [])
      <label for="of-outcome">Outcome</label><select id="of-outcome" name="outcome" data-send>
        <option value="">any</option>
        @foreach ($say->outcomes() as $o)
          <option value="{{ $o->value }}" @selected($filter->outcome === $o)>{{ $o->value }}</option>
        @endforeach
      </select>
    @elseif ($filter->outcome)
      <input type="hidden" name="outcome" value="{{ $filter->outcome->value }}">
    @endif
    @if ($load)
      <label for="from-row">from row</label><input id="from-row" name="from" size="8" inputmode="numeric"
        value="{{ request()->integer('from') ?: '' }}"><button class="btn small">Go</button>
    @endif
    <span class="marks" data-marks hidden><span role="status"></span> <button type="button" class="linkish"
        data-copy-marks>Copy</button> <button type="button" class="linkish" data-clear-marks>Clear</button></span>
  </form>
  <table class="sheet" data-walk aria-label="Rows">
    <thead>
      <tr>
        <th>Key</th>
        <th>Load</th>
        <th class="n">Row</th>
        <th>Outcome</th>
        <th>Because</th>
      </tr>
    </thead>
    <tbody>
      @forelse ($rows as $row)
        @php($of = $page->all()->get($row->load_id))
        @php($cause = $row->cause_id ? $causes[$row->cause_id] ?? null : null)
        <tr class="hit">
          <td><x-tag :space="$of?->space" :legacy="$row->legacy_key" :target="$row->target_key" :href="$page->journey($row)" /></td>
          <td>{{ $of?->name }}</td>
          <td class="n">{{ number_format($row->row_no) }}</td>
          <td class="whitespace-nowrap"><x-outcome :outcome="$row->outcome" /></td>
          <td>
            @if ($cause)
              {{ $cause->message }}{{ $cause->field ? ", $cause->field" : '' }} @if ($cause->value !== null && $cause->value !== '')
                <x-raw :value="$say->ofCause($cause)" />
              @endif
            @endif
            @php($waiver = $row->outcome === 'waived' ? $waivers["$row->load_id $row->cause_id"] ?? null : null)
            @if ($waiver)
              <small class="quiet">{{ $waiver->user->name ?? 'the command line' }},
                {{ $say::when($waiver->created_at, 'day') }}: {{ $waiver->reason }}</small>
            @endif
          </td>
        </tr>
      @empty
        <tr>
          <td colspan="5">
            {{ $filter->outcome?->value === 'pending' ? 'Rows no pass has come to yet have no line here.' : 'No such row.' }}
          </td>
        </tr>
      @endforelse
    </tbody>
  </table>
  @if ($next)
    <p class="mt-2"><a class="btn small"
        href="{{ request()->fullUrlWithQuery(['after' => $next, 'from' => null]) }}">The next rows</a></p>
  @endif
</x-layouts.app>
