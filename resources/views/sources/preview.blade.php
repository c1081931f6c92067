@if ($preview['going'])
  <x-looking :says="$preview['going']" target="#preview" />
@endif
@if ($error)
  <div class="note bad" role="alert">
    {{ $error }}</div>
@endif
@if ($preview['columns'])
  @foreach ($preview['columns']->remarks as $remark)
    <div class="note">{{ $remark }}</div>
  @endforeach
  @php($shown = array_slice($preview['columns']->all, 0, 60))
  <p class="quiet mb-1">
    {{ $tell->columns($preview['columns']->count(), count($shown)) }}.
    Names in rules stand below the headers.</p>
  <div class="scroll-x" tabindex="0" role="region" aria-label="First rows">
    <table class="sheet">
      <thead>
        <tr>
          <th class="n">Line</th>
          @foreach ($shown as $column)
            <th>{{ $column->header }}<br><code>{{ $column->name }}</code></th>
          @endforeach
        </tr>
      </thead>
      <tbody>
        @foreach ($preview['rows'] as [$line, $cells])
          <tr>
            <td class="n">{{ number_format($line) }}</td>
            @foreach ($shown as $i => $column)
              <td><x-raw :value="$cells[$i] ?? null" /></td>
            @endforeach
            @if (count($cells) !== $preview['columns']->count())
              <td class="bad">{{ count($cells) }} cells</td>
            @endif
          </tr>
        @endforeach
      </tbody>
    </table>
  </div>
@endif
