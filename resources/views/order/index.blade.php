<x-layouts.app :page="$page" title="Order">
  @php($order = $chart ? $page->definitions->order() : null)
  <div class="head">
    <div>
      <h1>Load order</h1>
      @if ($chart)
        <p>{{ $say->count($order->waves === [] ? 0 : max($order->waves), 'wave') }}, worked out from the
          references that have a rule. Loads of one wave are independent.
          @if ($order->deferred)
            {{ $say->count(count($order->deferred), 'reference closes', 'references close') }} a circle and
            may be empty, so {{ count($order->deferred) === 1 ? 'it is' : 'they are' }} set when both records are there:
            {{ implode(', ', array_map(fn($r) => "$r->child.$r->field", $order->deferred)) }}.
          @endif
        </p>
      @endif
    </div>
  </div>
  @if (!$chart)
    <div class="note bad" role="alert">{{ $page->orderError() }}</div>
  @elseif ($chart->plates === [])
    <div class="panel">Nothing to order yet. Map an entity first.</div>
  @else
    <div class="panel scroll-x" tabindex="0" role="region" aria-label="Order chart">
      <svg width="{{ $chart->width }}" height="{{ $chart->height }}" role="group"
        aria-label="Load order in {{ max($order->waves) }} waves; the table below says the same">
        @for ($w = 1; $w <= max($order->waves); $w++)
          <text class="wave-name" x="{{ 20 + ($w - 1) * 262 }}" y="22">Wave {{ $w }}</text>
          <line class="wave-line" x1="{{ 20 + ($w - 1) * 262 }}" x2="{{ 192 + ($w - 1) * 262 }}" y1="30"
            y2="30" />
        @endfor
        @foreach ($chart->wires as $wire)
          <path @class(['wire', 'late' => $wire->isLate()]) d="{{ $wire->path }}">
            <title>{{ $wire->reference->child }}.{{ $wire->reference->field }} needs
              {{ $wire->reference->parent }}{{ $wire->isLate() ? ', set later' : '' }}</title>
          </path>
          @php([$x, $y] = $wire->end)
          <path @class(['wire-end', 'late' => $wire->isLate()])
            d="M{{ $x }} {{ $y - 4 }}L{{ $x + 8 }} {{ $y }}L{{ $x }} {{ $y + 4 }}z" />
          @if ($wire->isLate())
            <text class="plate-small" x="{{ $wire->label[0] }}"
              y="{{ $wire->label[1] }}">{{ $wire->reference->child }}.{{ $wire->reference->field }}, set later</text>
          @endif
        @endforeach
        @foreach ($chart->plates as $entity => $plate)
          <a href="{{ $page->url('order', $entity) }}">
            <rect @class(['plate', 'plate-chosen' => $page->entity?->name === $entity]) x="{{ $plate->x }}" y="{{ $plate->y }}"
              width="{{ $chart::PLATE_WIDTH }}" height="{{ $plate->height }}" rx="2" />
            <text class="plate-text" x="{{ $plate->x + 10 }}"
              y="{{ $plate->y + 20 }}">{{ $say->label($entity) }}</text>
            @foreach ($plate->loads as $i => $load)
              <text class="plate-small" x="{{ $plate->x + 10 }}"
                y="{{ $plate->y + 38 + 18 * $i }}">{{ $load->extract->source->code }} {{ $load->extract->name }},
                {{ number_format($load->extract->take?->rows ?? 0) }} rows</text>
            @endforeach
          </a>
        @endforeach
      </svg>
    </div>
    <table class="sheet">
      <thead>
        <tr>
          <th class="n">Wave</th>
          <th>Load</th>
          <th>Into</th>
          <th>Reads</th>
          <th class="n">Rows</th>
          <th>After</th>
          <th>Set later</th>
        </tr>
      </thead>
      <tbody>
        @foreach ($page->loads() as $load)
          @php($name = $load->entity)
          <tr class="hit">
            <td class="n">{{ $order->waves[$name] }}</td>
            <td><a href="{{ $page->url('mapping', $name) }}?load={{ $load->id }}">{{ $load->name }}</a></td>
            <td>{{ $say->label($name) }}</td>
            <td><code class="short">{{ $load->source }}</code> {{ $load->extract }}</td>
            <td class="n">{{ number_format($load->rows) }}</td>
            <td>{{ implode(', ', array_map($say->label(...), $order->parentsOf($name))) }}</td>
            <td>{{ implode(', ', $order->deferredFields($name)) }}</td>
          </tr>
        @endforeach
      </tbody>
    </table>
  @endif
</x-layouts.app>
