<div id="trial" aria-live="polite">
  <h2>Tried on rows</h2>
  @if ($trial['problem'])
    <p class="wait">{{ $trial['problem'] }}</p>
  @endif
  @foreach ($trial['loads'] as $load)
    @if ($load['error'])
      <div class="note bad">{{ $load['name'] }}: {{ $load['error'] }}</div>
    @else
      <table class="sheet" aria-label="Tried on {{ $load['name'] }}">
        <thead>
          <tr>
            <th>{{ $load['name'] }}</th>
            <th>Says</th>
            <th class="n">Counts with</th>
            <th>In the group</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($load['rows'] as $row)
            <tr>
              <td>row {{ number_format($row['row']) }}</td>
              <td>
                @foreach ($row['before'] as $value)
                  <x-raw :$value />
                @endforeach
              </td>
              <td @class(['n', 'quiet' => $row['counts'] === null])>
                {{ $row['counts'] ?? ($row['why'] ?? 'no value') }}</td>
              <td>{{ $row['group'] ?? '' }}</td>
            </tr>
          @endforeach
        </tbody>
      </table>
    @endif
  @endforeach
</div>
