<x-layouts.app :page="$page" title="Combine extracts">
  @php($here = "/m/{$page->migration->id}/sources/feeds")
  @php([$least, $most] = $combination->extracts())
  @php($slots = max($least, min($most, count($chosen) + ($most > 2 ? 1 : 0))))
  <div class="head">
    <div>
      <h1>Combine extracts</h1>
      <p>A feed is made of frozen rows and is frozen itself: its rows are numbered, profiled and mapped like those of
        any extract, and it is made again when one of its extracts has a new take.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('sources') }}">All sources</a></div>
  </div>
  <nav class="parts" aria-label="How they are combined">
    @foreach ($say->combinations() as $c)
      <a href="{{ $here }}?combined={{ $c->value }}"
        @if ($c === $combination) aria-current="page" @endif>{{ ucfirst($c->label()) }}</a>
    @endforeach
  </nav>
  <p class="quiet mb-2">
    @switch($combination->value)
      @case('join')
        Every row of the first extract once, with the columns of its partner in the second beside it. Without a partner
        those stay blank; with several the row stands once for each, and you are asked first.
      @break

      @case('stack')
        The rows of all extracts one after the other; columns with the same header come together. A column "from" says where
        each row is from.
      @break

      @case('distinct')
        One row for each different value of some columns, with how many rows have it: to make parents out of repeated text.
      @break

      @default
        Row 1 beside row 1, row 2 beside row 2: for exports of one list in two files.
    @endswitch
  </p>
  <form class="panel row" action="{{ $here }}"><input type="hidden" name="combined"
      value="{{ $combination->value }}">
    @for ($i = 0; $i < $slots; $i++)<label
        for="of-{{ $i }}">{{ $i === 0 ? 'Of' : ($combination->value === 'join' ? 'with' : 'and') }}</label><select
        id="of-{{ $i }}" name="of[]" data-send>
        <option value="">choose an extract</option>
        @foreach ($extracts as $e)
          <option value="{{ $e->id }}" @selected(($chosen[$i]->id ?? null) === $e->id)>{{ $e->source->code }} {{ $e->name }},
            {{ number_format($e->take->rows) }} rows</option>
        @endforeach
      </select>
    @endfor
    <button class="btn small">Show their columns</button>
  </form>
  @if (count($chosen) >= $least)
    <form class="panel" method="post" action="{{ $here }}">@csrf<input type="hidden" name="combined"
        value="{{ $combination->value }}">
      @foreach ($chosen as $e)
        <input type="hidden" name="of[]" value="{{ $e->id }}">
      @endforeach
      @if ($combination->value === 'join')
        <p class="mb-1">Two rows are partners when all of these agree:</p>
        @php($pairs = array_merge(array_map(null, array_keys($on), $on), [['', ''], ['', ''], ['', '']]))
        @for ($i = 0; $i < 3; $i++)
          <div class="row mb-1">
            @foreach ([['left', 0], ['right', 1]] as [$side, $at])
              <label class="sr-only" for="{{ $side }}-{{ $i }}">Column of
                {{ $chosen[$at]->name }}, {{ $i + 1 }}</label><select
                id="{{ $side }}-{{ $i }}" name="{{ $side }}[]">
                <option value="">{{ $i === 0 ? 'choose a column' : 'no further column' }}</option>
                @foreach ($chosen[$at]->tidyColumns()->all as $column)
                  <option value="{{ $column->header }}" @selected((old($side)[$i] ?? $pairs[$i][$at]) === $column->header)>
                    {{ $chosen[$at]->name }}
                    {{ $column->header }}</option>
                @endforeach
              </select>
              @if ($side === 'left')
                <span>is</span>
              @endif
            @endforeach
          </div>
        @endfor
      @elseif ($combination->value === 'distinct')
        <div class="stack mb-2"><label for="distinct">Columns that together make a value</label><select id="distinct"
            name="distinct[]" multiple size="{{ min(10, max(4, count($chosen[0]->columns))) }}" required>
            @foreach ($chosen[0]->tidyColumns()->all as $column)
              <option @selected(in_array($column->header, old('distinct', []), true))>{{ $column->header }}</option>
            @endforeach
          </select>
        </div>
      @endif
      <div class="row mt-2">
        @if (in_array($combination->value, ['join', 'distinct'], true))
          <label for="compared">Values are compared</label><select id="compared" name="compared">
            @foreach ($comparisons as $name => $label)
              <option value="{{ $name }}" @selected(old('compared', 'trim') === $name)>{{ $label }}</option>
            @endforeach
          </select>
        @endif
        <label for="name">Name of the feed</label><input id="name" name="name" required maxlength="100"
          value="{{ old('name', $tell->feed($combination, $chosen)) }}"><button class="btn main">Make the feed</button>
      </div>
    </form>
  @endif
</x-layouts.app>
