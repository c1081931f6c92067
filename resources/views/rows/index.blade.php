<x-layouts.app :page="$page" title="Rows">
  <div class="head">
    <div>
      <h1>{{ $load?->name ?? ($page->entity ? $say->label($page->entity->name) : 'All entities') }}:
        {{ $outcome ? $outcome->value . ' rows' : 'rows' }}</h1>
      <p>
        @if ($waits)
          Their reference <code>{{ $waits }}</code> waits for a record that is not there yet.
        @elseif ($outcome)
          {{ ucfirst($outcome->value) }}: {{ $outcome->meaning() }}.
        @else
          Every row that has an outcome in this round.
        @endif
      </p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('reconciliation', $page->entity?->name) }}">Back to the
        proof</a></div>
  </div>
  <table class="sheet">
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
        @php($of = $loads[$row->load_id])
        @php($cause = $row->cause_id ? $causes[$row->cause_id] ?? null : null)
        <tr class="hit">
          @php($space = $of->keySpace())
          <td><x-tag :$space :legacy="$row->legacy_key" :target="$row->target_key" :href="$page->journey($row)" /></td>
          <td>{{ $of->name }}</td>
          <td class="n">{{ number_format($row->row_no) }}</td>
          <td><x-outcome :outcome="$row->outcome" /></td>
          <td>
            @if ($cause)
              {{ $cause->message }}{{ $cause->field ? ", $cause->field" : '' }} @if ($cause->value !== null && $cause->value !== '')
                <x-raw :value="$cause->value" />
              @endif
            @endif
            @php($waiver = $row->outcome === 'waived' ? $waivers["$row->load_id $row->cause_id"] ?? null : null)
            @if ($waiver)
              <small class="quiet">{{ $waiver->user->name ?? 'the command line' }},
                {{ $waiver->created_at->format('j M Y') }}: {{ $waiver->reason }}</small>
            @endif
          </td>
        </tr>
      @empty
        <tr>
          <td colspan="5">
            {{ $outcome?->value === 'pending' ? 'Rows no pass has come to yet have no line here.' : 'No such row.' }}
          </td>
        </tr>
      @endforelse
    </tbody>
  </table>
  @if ($next)
    <p class="mt-2"><a class="btn small" href="{{ request()->fullUrlWithQuery(['after' => $next]) }}">The next
        rows</a></p>
  @endif
</x-layouts.app>
