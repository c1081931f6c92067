<x-layouts.app :page="$page" title="Put a row right">
  @php($width = count($take->columns))
  <div class="head">
    <div>
      <h1>Row {{ number_format($row) }} of {{ $load->extract->name }}</h1>
      <p>Line {{ number_format($line) }} of {{ $take->file_name }} has {{ $say->count(count($read), 'cell') }}, the
        header
        {{ $width }}. Move the cells until each stands beside its column.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('rejects', $load->entity->name) }}">Back to Rejects</a>
    </div>
  </div>
  <form method="post" action="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/try" data-cells
    data-glue="{{ $glue }}">@csrf<x-was :of="['row' => $cells]" :keys="['row']" /><x-round :$page /><input
      type="hidden" name="what" value="row"><input type="hidden" name="row" value="{{ $row }}">
    <table class="sheet">
      <thead>
        <tr>
          <th>Column</th>
          <th>As read</th>
          <th>To be</th>
          <th><span class="sr-only">Move</span></th>
        </tr>
      </thead>
      <tbody>
        @for ($i = 0; $i < max($width, count($read), count($cells)); $i++)
          <tr>
            <td>{{ $take->columns[$i]['header'] ?? '' }}@if ($i >= $width)
                <span class="bad">beyond the header</span>
              @endif
            </td>
            <td>
              @if ($i < count($read))
                <x-raw :value="$read[$i]" />
              @else
                <span class="quiet">no cell</span>
              @endif
            </td>
            <td>
              <textarea name="cells[]" rows="1" class="w-full"
                aria-label="{{ $take->columns[$i]['header'] ?? 'beyond the header' }}">{{ $cells[$i] ?? '' }}</textarea>
            </td>
            <td>
              <div class="row flex-nowrap!"><button type="button" class="btn small" data-cell="insert"
                  title="An empty cell here, the others one down">Add a cell</button> <button type="button"
                  class="btn small" data-cell="drop" title="The others one up">Drop</button> <button type="button"
                  class="btn small" data-cell="join" title="This cell and the one below become one">Join with the
                  next</button></div>
            </td>
          </tr>
        @endfor
      </tbody>
    </table>
    <p class="row mt-2"><label for="reason">because</label><input id="reason" name="reason"
        value="{{ session('reason', '') }}"><button class="btn main">Try the row</button></p>
  </form>
</x-layouts.app>
