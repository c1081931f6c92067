@props(['rows', 'columns', 'width', 'mark' => null])
<div class="scroll-x" tabindex="0" role="region" aria-label="Rows">
  <table class="sheet" data-walk>
    <thead>
      <tr>
        <th class="n">Row</th>
        <th class="n">Line</th>
        @foreach ($columns as $column)
          <th @class(['marked' => $column->position === $mark])>{{ $column->header }}</th>
        @endforeach
      </tr>
    </thead>
    <tbody>
      @foreach ($rows as [$number, $row])
        <tr>
          <td class="n">{{ number_format($number) }}</td>
          <td class="n zero">{{ number_format($row->line) }}</td>
          @foreach ($columns as $column)
            <td @class(['marked' => $column->position === $mark])><x-raw :value="$row->cells[$column->position] ?? null" /></td>
          @endforeach
          @if (count($row->cells) !== $width)
            <td class="bad whitespace-nowrap">{{ count($row->cells) }} cells</td>
          @endif
        </tr>
      @endforeach
    </tbody>
  </table>
</div>
