<x-sources.extract :$page :$extract :$take :$latest show="columns" :open="$openFindings" :all="$allFindings">
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}/columns/{$column->position}")
  @php($f = $take->facts()[$column->position])
  @php($columns = $extract->tidyColumns()->all)
  <h2 class="row">{{ $column->header }}: {{ $f['type']['label'] }} <x-strip :strip="$f['strip'] ?? null" :of="$column->header" />
  </h2>
  <p class="quiet mb-2">{{ number_format($f['filled']) }} filled, {{ number_format($f['blank']) }} blank,
    {{ number_format($f['missing']) }} without a cell;
    {{ $f['estimated'] ? 'about ' : '' }}{{ number_format($f['distinct']) }}
    different{{ $f['estimated'] ? ' (an estimate, give or take 0.8 %)' : '' }}, {{ $f['shortest'] }} to
    {{ $f['longest'] }} characters.
    @if ($f['type']['ambiguous'])
      No date has a day above 12, so day and month cannot be told apart.
    @endif
  </p>
  @if ($value !== null)
    <p class="mb-2">Rows with <x-raw :value="$value" /> <a class="linkish" href="{{ $here }}">All values</a>
    </p>
    @if ($found['rows'] !== [])
      @php($beside = $tell->columnsBeside($columns, $column->position))
    <x-sources.rows :rows="$found['rows']" :columns="$beside" :width="count($columns)" :mark="$column->position" />@else<p>
        None up to row {{ number_format(min($found['reached'], $take->rows)) }}.</p>
    @endif
    @if ($found['reached'] < $take->rows)
      <p class="mt-2"><a class="btn small"
          href="{{ $here }}?value={{ urlencode($value) }}&after={{ $found['reached'] }}">Go on after row
          {{ number_format($found['reached']) }}</a></p>
    @endif
  @else
    <div class="two">
      <div>
        <x-table :table="$values" label="Values" empty="No value recurs, or the column is empty.">
          @foreach ($values->rows() as $v)
            <tr class="hit">
              <td><a class="plain" href="{{ $here }}?value={{ urlencode($v->value) }}"><x-raw
                    :value="$v->value" /></a></td>
              <td class="n">{{ number_format($v->n) }}</td>
            </tr>
          @endforeach
        </x-table>
        @if ($values->total() < $f['distinct'])
          <p class="quiet mt-2">The {{ number_format($values->total()) }} most frequent of
            {{ $f['estimated'] ? 'about ' : '' }}{{ number_format($f['distinct']) }}{{ $f['estimated'] ? $tell->countedExactly() : '' }}.
          </p>
        @endif
      </div>
      <div>
        <table class="sheet">
          <thead>
            <tr>
              <th>Build</th>
              <th class="n">Rows</th>
            </tr>
          </thead>
          <tbody>
            @foreach ($f['shapes'] as $shape => $n)
              <tr>
                <td>{{ $say->shape($shape) }}</td>
                <td class="n">{{ number_format($n) }}</td>
              </tr>
            @endforeach
          </tbody>
        </table>
        @if ($f['smallest'] !== null)
          <dl class="pair mt-3">
            <dt>Smallest</dt>
            <dd><x-raw :value="$f['smallest']" /></dd>
            <dt>Largest</dt>
            <dd><x-raw :value="$f['largest']" /></dd>
          </dl>
        @endif
      </div>
    </div>
  @endif
</x-sources.extract>
