<x-sources.extract :$page :$extract :$take :$latest :$show :open="$openFindings" :all="$allFindings">
  @php($base = "/m/{$page->migration->id}/sources")
  <h2>What may identify a row</h2>
  <table class="sheet">
    <thead>
      <tr>
        <th>Columns</th>
        <th class="n">Rows with a key another row has</th>
        <th class="n">Rows without</th>
        <th>For instance</th>
      </tr>
    </thead>
    <tbody>
      @forelse ($keys as $key)
        <tr>
          <td><code>{{ implode(' + ', json_decode($key->columns, true)) }}</code></td>
          @foreach (['' => $key->duplicate_rows, '&blank=1' => $key->blank_rows] as $which => $n)
            <td class="n">
              @if ($n === 0)
              <span class="zero">0</span>@else<a
                  href="{{ $base }}/extracts/{{ $extract->id }}?show=key&of={{ $key->id }}{{ $which }}">{{ number_format($n) }}</a>
              @endif
            </td>
          @endforeach
          <td>
            @foreach (array_slice(json_decode($key->examples, true), 0, 4) as [$first, $last, $n])
              <a class="linkish"
                href="{{ $base }}/extracts/{{ $extract->id }}?show=rows&after={{ $first - 1 }}">rows
                {{ number_format($first) }} and {{ number_format($last) }}</a>{{ $loop->last ? '' : ', ' }}
            @endforeach
          </td>
        </tr>
      @empty
        <tr>
          <td colspan="4">
            {{ $take->state->value === 'frozen' ? $tell::NO_KEY : '' }}
          </td>
        </tr>
      @endforelse
    </tbody>
  </table>
  <h2>How a row is known again in the next take</h2>
  <p>
    @if ($rowKey)
      By
      <code>{{ implode(' + ', $rowKey) }}</code>{{ $extract->row_key ? '' : ', which was found or is the key of its first load' }}.
      Where that is blank or there twice, by all its cells and its place among equal rows.
    @else
      By all its cells and its place among equal rows: no key is known.
    @endif
    What people decide about a row follows it so.
  </p>
  @can('work', $page->migration)
    <details class="panel">
      <summary>State other columns</summary>
      <form class="mt-1" method="post" action="{{ $base }}/extracts/{{ $extract->id }}/row-key">@csrf<x-was
          :of="$extract" :keys="['row_key']" />
        <div class="row">
          @foreach ($extract->columns ?? [] as $column)
            <label class="row"><input type="checkbox" name="columns[]" value="{{ $column['header'] }}"
                @checked(in_array($column['header'], $extract->row_key ?? [], true))> {{ $column['header'] }}</label>
          @endforeach
        </div>
        <p class="row mt-1"><button class="btn small">Keep</button> <span class="quiet">None ticked: what was found
            counts.</span></p>
      </form>
    </details>
  @endcan
  <h2>What it hangs on, and what hangs on it</h2>
  <x-sources.references :$table :$page />
</x-sources.extract>
