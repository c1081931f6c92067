@props(['log', 'until', 'oldest', 'at'])
<form class="table-line" action="{{ $at }}"><label for="until">Until the day</label><input id="until"
    name="until" type="date" value="{{ $until }}"><button class="btn small">Show</button></form>
<x-table :table="$log" label="Who did what" empty="Nothing was done yet.">
  @foreach ($log->rows() as $entry)
    <tr>
      <td class="whitespace-nowrap">{{ $entry->at->format('j M Y H:i:s') }}</td>
      <td>{{ $people->who($entry) }}</td>
      <td class="whitespace-nowrap">{{ $people->where($entry) }}</td>
      <td>{{ $entry->what }}</td>
      <td>{{ $people->before($entry) }}</td>
      <td>{{ $people->after($entry) }}</td>
    </tr>
  @endforeach
</x-table>
@if ($oldest)
  <p class="quiet mt-1">The newest 2,000 until then. <a class="linkish"
      href="{{ $at }}?until={{ $oldest->format('Y-m-d') }}">Those before</a></p>
@endif
