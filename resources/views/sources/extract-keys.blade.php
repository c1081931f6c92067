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
  <h2>What it hangs on, and what hangs on it</h2>
  <x-sources.references :references="$references" :page="$page" />
</x-sources.extract>
