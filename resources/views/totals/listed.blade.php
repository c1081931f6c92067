<h2 id="listed">{{ $amounts->listed($part, $isListed, $listed) }}</h2>
@can('view', $page->migration)
  <form class="mb-2" method="post" action="{{ $at }}/rows">@csrf
    <input type="hidden" name="group" value="{{ $group }}">
    <button class="btn small">{{ $isListed ? 'List them anew' : 'List its rows' }}</button>
    @if ($part)
      <a class="linkish ml-2" href="{{ $at }}?group={{ urlencode($group) }}#listed">All parts</a>
    @endif
  </form>
@endcan
@if ($listed !== [])
  <table class="sheet" data-walk aria-label="Rows of the group">
    <thead>
      <tr>
        <th>Row</th>
        <th>Part</th>
        <th class="n">The row counts</th>
        <th class="n">Its record</th>
      </tr>
    </thead>
    <tbody>
      @foreach ($listed as $row)
        <tr class="hit">
          <td><a
              href="/m/{{ $page->migration->id }}/rows/{{ $row->load_id }}/{{ $row->item }}">{{ $page->all()->get($row->load_id)?->name }},
              row {{ number_format($row->item) }}</a></td>
          <td>{{ $amounts->parts()[$row->part][0] ?? $row->part }}</td>
          <td class="n">{{ $amounts->said($row->legacy) }}</td>
          <td class="n">{{ $amounts->said($row->target) }}</td>
        </tr>
      @endforeach
    </tbody>
  </table>
  @if ($moreListed)
    <p class="mt-2"><a class="btn small"
        href="{{ request()->fullUrlWithQuery(['listed-after' => $moreListed]) }}#listed">The next of them</a></p>
  @endif
@endif
