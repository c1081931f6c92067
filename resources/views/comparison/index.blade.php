<x-layouts.app :page="$page" title="Records compared">
  @php($m = $page->migration)
  @php($entity = $page->entity?->name)
  <div class="head">
    <div>
      <h1>{{ $page->entity ? $say->label($entity) . ': records compared' : 'Records compared' }}
        {{ $page->round ? 'in ' . lcfirst($page->round->label()) : '' }}</h1>
      <p>{{ $amounts->comparison($compared, $reckoning) }}</p>
    </div>
  </div>
  <x-proofs-of :$page on="comparison" />
  @if ($page->round && !$page->round->hasEnded())
    <form class="panel row" method="post" action="/m/{{ $m->id }}/reconciliation/reckon" x-data="reveal">
      @csrf<x-round :$page /><input type="hidden" name="what" value="comparison">
      <label><input type="radio" name="how" value="all" checked> all {{ number_format($records) }}
        records</label>
      <label><input type="radio" name="how" value="sample"> a sample drawn at random, so that with</label>
      <select name="confidence" aria-label="Confidence">
        @foreach (['90', '95', '99'] as $c)
          <option value="{{ $c }}" @selected($c === '95')>{{ $c }} %</option>
        @endforeach
      </select> confidence one would be seen if
      <input name="share" size="4" inputmode="decimal" value="1" aria-label="Percent of the records"> %
      were wrong
      <label>or so many <input name="size" size="6" inputmode="numeric"></label>
      <label>seed <input name="seed" size="8" inputmode="numeric" placeholder="any"></label>
      <button class="btn main" @disabled($page->pass?->isGoing() || $records === 0)>Compare them</button>
    </form>
  @endif
  <x-works :works="$works" :m="$m" />
  @foreach ($compared->loads ?? [] as $load)
    @if ($load['missing'] > 0)
      <p class="bad">{{ $load['name'] }}: @php($at = $page->compared($load['load'], '', 'record gone', 'since'))
        <a href="{{ $at }}">{{ $say->count($load['missing'], 'row stands', 'rows stand') }}
          for a record that is no longer there</a>.
      </p>
    @endif
    @if ($load['unknown'] > 0)
      <p class="quiet">{{ $load['name'] }}: of {{ $say->count($load['unknown'], 'row') }} it cannot be said again
        what was
        sent.</p>
    @endif
  @endforeach
  @if ($compared)
    <x-table :table="$table" label="Fields compared">
      @foreach ($table->rows() as $row)
        @php($f = $row->field)
        <tr @class(['hit', 'even' => $f->different === 0])>
          <td>{{ $row->name }}</td>
          <td>{{ $f->name }}</td>
          <td class="n">{{ number_format($f->equal) }}</td>
          <td @class([
              'n',
              'bad' => $f->different > 0,
              'zero' => $f->different === 0,
          ])>
            {{ number_format($f->different) }}</td>
          <td class="n zero">{{ number_format($f->left) }}</td>
          <td>
            @foreach ($f->classes as $c)
              <a class="linkish"
                href="{{ $page->compared($row->load, $f->name, $c['class'], $c['happened']) }}">{{ $c['class'] }}</a>
              {{ number_format($c['rows']) }}<span class="quiet">,
                {{ $c['happened'] === 'written' ? 'as it was written' : 'changed afterwards' }}</span>{{ $loop->last ? '' : ';' }}
            @endforeach
          </td>
        </tr>
      @endforeach
    </x-table>
  @endif
  @if ($compared)
    <p class="quiet">What was sent is made again by the plan and the corrections of the pass that sent it. As it was
      written: the target made something else of it in the very moment. Changed afterwards: it was there as sent, and is
      not any more. Not compared: another row wrote the field later, or nothing was sent for it.</p>
  @endif
</x-layouts.app>
