<x-layouts.app :page="$page" title="Order">
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
        @foreach ($chart->waves as $w => $x)
          <text class="wave-name" x="{{ $x }}" y="22">Wave {{ $w }}</text>
          <line class="wave-line" x1="{{ $x }}" x2="{{ $x + $chart::PLATE_WIDTH }}" y1="30"
            y2="30" />
        @endforeach
        @foreach ($chart->wires as $wire)
          <path @class(['wire', 'late' => $wire->isLate]) d="{{ $wire->line->path() }}">
            <title>{{ $wire->name() }} needs {{ $wire->reference->parent }}{{ $wire->isLate ? ', set later' : '' }}
            </title>
          </path>
          <path @class(['wire-end', 'late' => $wire->isLate]) d="{{ $wire->line->head() }}" />
        @endforeach
        @foreach ($chart->wires as $wire)
          @if ($wire->isLate && !$wire->isLoop())
            @php([$x, $y] = $wire->nameAt())
            <text class="plate-small on-line" x="{{ $x }}" y="{{ $y + 4 }}">{{ $wire->name() }},
              set later</text>
          @endif
        @endforeach
        @foreach ($chart->plates as $entity => $plate)
          @php($box = $plate->box)
          <a href="{{ $page->url('order', $entity) }}">
            <rect @class(['plate', 'plate-chosen' => $page->entity?->name === $entity]) x="{{ $box->x }}" y="{{ $box->y }}"
              width="{{ $box->width }}" height="{{ $box->height }}" rx="2" />
            <text class="plate-text" x="{{ $box->x + 10 }}"
              y="{{ $box->y + 20 }}">{{ $say->label($entity) }}</text>
            @foreach ($plate->loads as $i => $load)
              <text class="plate-small" x="{{ $box->x + 10 }}"
                y="{{ $box->y + 38 + 18 * $i }}">{{ $say->short("$load->source $load->extract", 16) }},
                {{ number_format($load->rows) }} rows</text>
            @endforeach
            @foreach ($plate->loops as $i => $field)
              <text class="plate-small late" x="{{ $box->x + 10 }}"
                y="{{ $box->y + 38 + 18 * (count($plate->loads) + $i) }}">{{ $field }}: to itself, set
                later</text>
            @endforeach
          </a>
        @endforeach
      </svg>
    </div>
    <x-table :table="$loads" label="Loads in their order">
      @foreach ($loads->rows() as $load)
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
    </x-table>
  @endif
</x-layouts.app>
