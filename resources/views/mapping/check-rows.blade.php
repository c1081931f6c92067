<x-layouts.app :page="$page" title="{{ $cause['message'] }}, {{ $load->name }}">
  @php($m = $page->migration)
  @php($sheet = $page->url('mapping', $load->entity->name) . "?load={$load->id}")
  <div class="head">
    <div>
      <h1>{{ $cause['message'] }}</h1>
      <p>{{ $load->name }}{{ $cause['field'] === null ? '' : ", {$cause['field']}" }}:
        {{ number_format($cause['n']) }} {{ $cause['n'] === 1 ? 'row' : 'rows' }}, checked
        {{ $say::when($check->finished_at, 'short') }} on all rows. Nothing was written.</p>
    </div>
    <div class="actions">
      @if ($rows !== [])
        <a class="btn" href="{{ $sheet }}&rows={{ implode(',', array_slice(array_keys($rows), 0, 3)) }}">Try the
          rules on the first of them</a>
      @endif
      <a class="btn" href="{{ $sheet }}">
        Back to the sheet</a>
    </div>
  </div>
  @if (!$same)
    <div class="note bad" role="alert">The extract has a new take since, which numbers its rows anew. Check the load
      again to see which rows it is now.</div>
  @elseif ($stale)
    <div class="note" role="status">Rules or data have changed since; these are the rows the check found then.</div>
  @endif
  @if ($same)
    <div class="scroll-x" tabindex="0" role="region" aria-label="Rows">
      <table class="sheet" data-walk>
        <thead>
          <tr>
            <th class="n">Row</th>
            @foreach ($columns as $column)
              <th @class(['marked' => in_array($column->position, $used, true)])>{{ $column->header }}</th>
            @endforeach
          </tr>
        </thead>
        <tbody>
          @foreach ($rows as $number => $cells)
            <tr>
              <td class="n"><a data-journey
                  href="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/record/{{ $number }}"
                  title="The row and the record made of it">{{ number_format($number) }}</a></td>
              @foreach ($columns as $column)
                <td @class(['marked' => in_array($column->position, $used, true)])><x-raw :value="$cells[$column->position] ?? null" /></td>
              @endforeach
            </tr>
          @endforeach
        </tbody>
      </table>
    </div>
    @if ($width > count($columns))
      <p class="quiet mt-2">{{ count($columns) }} of {{ $width }} columns; a row's number opens all of them.
      </p>
    @endif
    @if ($next)
      <p class="mt-2"><a class="btn small" href="?after={{ $next }}">The next rows</a></p>
    @endif
  @endif
</x-layouts.app>
