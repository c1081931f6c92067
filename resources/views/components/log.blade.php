@props(['entries', 'filter', 'who', 'older', 'at'])
<form class="table-line" action="{{ $at }}">
  <label for="who">Who</label><select id="who" name="who" class="max-w-[190px]">
    <option value="">everybody</option>
    @foreach ($who as $user)
      <option value="{{ $user->id }}" @selected($filter->who === (string) $user->id)>{{ $user->name }},
        {{ $user->email }}</option>
    @endforeach
    <option value="{{ $filter::NOBODY }}" @selected($filter->who === $filter::NOBODY)>the command line, workers, and who was not
      logged in</option>
  </select>
  <label for="what">What</label><input id="what" name="what" size="14" value="{{ $filter->what }}"
    maxlength="100">
  <label for="from">From</label><input id="from" name="from" type="date" value="{{ $filter->from }}">
  <label for="until">until</label><input id="until" name="until" type="date" value="{{ $filter->until }}">
  <button class="btn small">Show</button>
  @if ($filter->query() !== [] || $filter->before)
    <a class="linkish" href="{{ $at }}">All of it</a>
  @endif
  <a class="linkish" href="{{ $at }}?{{ http_build_query($filter->query() + ['csv' => 1]) }}"
    title="All of it that is shown by these, however much">.csv</a>
</form>
<div class="scroll-x">
  <table class="sheet" data-walk aria-label="Who did what">
    <thead>
      <tr>
        <th>When, in {{ $say::zone() }}</th>
        <th>Who</th>
        <th>From where</th>
        <th>What</th>
        <th>Before</th>
        <th>After, or what else is known</th>
      </tr>
    </thead>
    <tbody>
      @forelse ($entries as $entry)
        <tr>
          <td class="whitespace-nowrap">{{ $say::when($entry->at, 'second') }}</td>
          <td>{{ $people->who($entry) }}</td>
          <td class="whitespace-nowrap">{{ $people->where($entry) }}</td>
          <td>{{ $entry->what }}</td>
          <td>{{ $people->before($entry) }}</td>
          <td>{{ $people->after($entry) }}</td>
        </tr>
      @empty
        <tr>
          <td colspan="6" class="quiet">Nothing of the kind was done.</td>
        </tr>
      @endforelse
    </tbody>
  </table>
</div>
@if ($older)
  <p class="mt-1"><a class="linkish" href="{{ $at }}?{{ $older }}">Those before</a></p>
@endif
