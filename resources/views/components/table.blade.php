@props(['table', 'tight' => false, 'label' => null, 'hide' => [], 'empty' => 'None yet.', 'level' => false])
@php($form = "filter-$table->name")
@php($columns = array_values(array_filter($table->columns, fn($c) => !in_array($c->key === '' ? $c->label : $c->key, $hide, true))))
<div id="table-{{ $table->name }}" class="long-table" data-table>
  @if ($table->isLong())
    <form id="{{ $form }}" method="get" action="{{ $table->path() }}" hx-get="{{ $table->path() }}"
      hx-target="#table-{{ $table->name }}" hx-select="#table-{{ $table->name }}" hx-swap="outerHTML" hx-push-url="true"
      hx-trigger="submit, input delay:350ms from:#filters-{{ $table->name }}" hx-sync="this:replace"
      class="table-line">
      @foreach ($table->kept() as $key => $value)
        <input type="hidden" name="{{ $key }}" value="{{ $value }}">
      @endforeach
      <span role="status">
        @if ($table->isFiltered())
          {{ number_format($table->count()) }} of {{ number_format($table->total()) }} <a class="linkish"
            href="{{ $table->unfiltered() }}">All of them</a>
        @else
          {{ number_format($table->total()) }} in all
        @endif
      </span>
      <a class="linkish" href="{{ $table->asCsv() }}" title="All of them that pass the filters, in this order">.csv</a>
      <span class="marks" data-marks hidden><span role="status"></span> <button type="button" class="linkish"
          data-copy-marks>Copy</button> <button type="button" class="linkish" data-clear-marks>Clear</button></span>
      <button class="sr-only">Filter</button>
    </form>
  @endif
  <div class="scroll-x"
    @if ($tight) tabindex="0" role="region" aria-label="{{ $label }}" @endif>
    <table @class(['sheet', 'tight' => $tight, 'level' => $level]) data-walk
      @if ($label) aria-label="{{ $label }}" @endif>
      <thead>
        <tr>
          @foreach ($columns as $c)
            @php($order = $table->order($c))
            @if ($c->key === '')
              <th><span @class(['sr-only' => $c->isHidden])>{{ $c->label }}</span></th>
            @else
              <th @class(['n' => $c->isNumber])
                @if ($order) aria-sort="{{ $order }}" @endif>
                @if ($table->total() > 1)
                  <a href="{{ $table->sortedBy($c) }}" hx-get="{{ $table->sortedBy($c) }}"
                    hx-target="#table-{{ $table->name }}" hx-select="#table-{{ $table->name }}" hx-swap="outerHTML"
                    hx-push-url="true" id="sort-{{ $table->name }}-{{ $c->key }}">{{ $c->label }}
                    @if ($order)
                      <span aria-hidden="true">{{ $order === 'ascending' ? '▴' : '▾' }}</span>
                    @endif
                  </a>
                @else
                  {{ $c->label }}
                @endif
              </th>
            @endif
          @endforeach
        </tr>
        @if ($table->isLong())
          <tr class="filters" id="filters-{{ $table->name }}">
            @foreach ($columns as $c)
              <td @class(['n' => $c->isNumber])>
                @if ($c->key !== '')
                  <input id="find-{{ $table->name }}-{{ $c->key }}" form="{{ $form }}"
                    name="{{ $table->name }}-{{ $c->key }}" value="{{ $table->typed($c) }}" autocomplete="off"
                    aria-label="Only where {{ $c->label }} is" title="{{ $say->filter($c) }}">
                @endif
              </td>
            @endforeach
          </tr>
        @endif
      </thead>
      <tbody>
        {{ $slot }}
        @if ($table->count() === 0)
          <tr>
            <td colspan="{{ count($columns) }}">
              {{ $table->isFiltered() ? 'None of the ' . number_format($table->total()) . ' passes the filters.' : $empty }}
            </td>
          </tr>
        @endif
      </tbody>
      {{ $foot ?? '' }}
    </table>
  </div>
  @if ($table->pages() > 1)
    <nav class="table-line" aria-label="Pages{{ $label ? " of $label" : '' }}">
      @if ($table->page() > 1)
        <a class="btn small" href="{{ $table->atPage($table->page() - 1) }}" rel="prev">Before</a>
      @endif
      <span>Page {{ number_format($table->page()) }} of {{ number_format($table->pages()) }}</span>
      @if ($table->page() < $table->pages())
        <a class="btn small" href="{{ $table->atPage($table->page() + 1) }}" rel="next">Next</a>
      @endif
    </nav>
  @endif
</div>
