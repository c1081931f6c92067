<x-layouts.app :page="$page" title="Records that differ">
  @php($m = $page->migration)
  <div class="head">
    <div>
      <h1>{{ $load->name }}{{ $field === '' ? '' : ", $field" }}: {{ $class }}</h1>
      <p>
        {{ $amounts->happened($happened) }}
        Compared {{ $say::when($reckoning->done_at, 'counted') }}.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('comparison', $page->entity?->name) }}">All fields</a></div>
  </div>
  <x-works :works="$works" :$m />
  @php($behind = compact('field', 'class', 'happened') + ['what' => 'compared', 'reckoning' => $reckoning->id])
  <x-differences-file :$page :of="$behind + ['load' => $load->id]" label="All of them as .csv" />
  <table class="sheet" data-walk aria-label="Rows">
    <thead>
      <tr>
        <th class="n">Row</th>
        <th>Sent</th>
        <th>The record says</th>
      </tr>
    </thead>
    <tbody>
      @forelse ($rows as $row)
        <tr class="hit">
          <td class="n"><a
              href="/m/{{ $m->id }}/rows/{{ $row->load_id }}/{{ $row->item }}">{{ number_format($row->item) }}</a>
          </td>
          <td><x-raw :value="$row->legacy" /></td>
          <td><x-raw :value="$row->target" /></td>
        </tr>
      @empty
        <tr>
          <td colspan="3">No such row.</td>
        </tr>
      @endforelse
    </tbody>
  </table>
  @if ($next)
    <p class="mt-2"><a class="btn small" href="{{ request()->fullUrlWithQuery(['after' => $next]) }}">The next
        rows</a></p>
  @endif
</x-layouts.app>
