<x-sources.extract :$page :$extract :$take :$latest :$show :open="$openFindings" :all="$allFindings">
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}?show=rows&rows=$most")
  @php($columns = $extract->tidyColumns()->all)
  @php($width = 24)
  <form class="row mb-2" action="/m/{{ $page->migration->id }}/sources/extracts/{{ $extract->id }}"><input type="hidden"
      name="show" value="rows"><label for="after">After row</label><input id="after" name="after" type="number"
      min="0" max="{{ $take->rows }}" value="{{ $after }}"><input type="hidden" name="from"
      value="{{ $from }}"><label for="most">so many</label><select id="most" name="rows" data-send>
      @foreach ($say::PREVIEWED as $n)
        <option @selected($most === $n)>{{ $n }}</option>
      @endforeach
    </select><button class="btn small">Show</button>
    @if (count($columns) > $width)<span>Columns {{ $from + 1 }} to
        {{ min(count($columns), $from + $width) }} of {{ number_format(count($columns)) }}</span>
      @if ($from > 0)
        <a class="btn small"
          href="{{ $here }}&from={{ max(0, $from - $width) }}&after={{ $after }}">Columns before</a>
      @endif
      @if ($from + $width < count($columns))
        <a class="btn small" href="{{ $here }}&from={{ $from + $width }}&after={{ $after }}">Columns
          after</a>
      @endif
    @endif
  </form>
  <x-sources.rows :rows="$rows" :columns="array_slice($columns, $from, $width)" :width="count($columns)" />
  @if ($rows->isNotEmpty() && $rows->last()[0] < $take->rows)
    <p class="mt-2"><a class="btn small"
        href="{{ $here }}&after={{ $rows->last()[0] }}&from={{ $from }}">Rows after
        {{ number_format($rows->last()[0]) }}</a></p>
  @endif
</x-sources.extract>
