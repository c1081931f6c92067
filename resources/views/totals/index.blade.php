<x-layouts.app :page="$page" title="Control totals">
  @php($m = $page->migration)
  @php($entity = $page->entity?->name)
  @php($off = array_filter($lines, fn($l) => !$l->holds()))
  <div class="head">
    <div>
      <h1>{{ $page->entity ? $say->label($entity) . ': control totals' : 'Control totals' }}
        {{ $page->round ? 'of ' . lcfirst($page->round->label()) : '' }}</h1>
      <p>{{ $amounts->totals($lines, $off, count($stated), $reckoning) }}</p>
    </div>
    <div class="actions">
      <a class="btn" href="{{ $page->url('totals-stated', $entity) }}">Sheet of totals</a>
      @if ($page->round && !$page->round->hasEnded() && count($stated) > 0)
        <form method="post" action="/m/{{ $m->id }}/reconciliation/reckon">@csrf<x-round :$page /><input
            type="hidden" name="what" value="totals"><button class="btn main" @disabled($page->pass?->isGoing())>Count
            {{ $say->count(count($stated), 'total') }}</button></form>
      @endif
    </div>
  </div>
  <x-proofs-of :$page on="totals" />
  <x-works :works="$works" :m="$m" />
  @if ($lines === [])
    <div class="note">
      @if (count($stated) === 0)
        No control total is stated{{ $page->entity ? ' for ' . $say->label($entity) : '' }} yet. <a class="linkish"
          href="{{ $page->url('totals-stated', $entity) }}">The sheet suggests some for every mapped amount, quantity
          and
          date</a>.
      @else
        Nothing was counted in this round yet.
      @endif
    </div>
  @else
    <div class="spread">
      <x-table :table="$table" label="Control totals">
        @foreach ($table->rows() as $line)
          @php($holds = $line->holds())
          @php($at = "/m/{$m->id}/totals/of/{$line->number}")
          <tr @class(['hit', 'even' => $holds])>
            <td><a href="{{ $at }}">{{ $line->total->name }}</a><small>{{ $line->total->kind->label() }} of
                {{ $line->total->entity }}.{{ $line->total->field }}{{ $amounts->groupedBy($line->total) }}</small>
            </td>
            @if ($line->error)
              <td colspan="5" class="bad">Not counted: {{ $line->error }}</td>
            @else
              <td class="n page-left">{{ $amounts->said($line->legacy()) }}</td>
              <td @class(['middle', 'off' => !$holds])>
                <a href="{{ $at }}">{{ $amounts->difference($line) }}</a>
              </td>
              <td class="page-right">{{ $amounts->said($line->target()) }}</td>
              <td @class([
                  'n',
                  'bad' => $line->groupsDiffer + $line->groupsDoNotFoot > 0,
                  'zero' => $line->groupsDiffer + $line->groupsDoNotFoot === 0,
              ])>
                {{ $line->total->groupField ? number_format($line->groupsDiffer + $line->groupsDoNotFoot) : '' }}</td>
              <td @class(['n', 'zero' => $line->figures->differ === 0])>{{ number_format($line->figures->differ) }}</td>
            @endif
          </tr>
          @if (!$line->error && $line->adds())
            <tr class="under">
              <td></td>
              <td colspan="3"><x-bar :bar="$amounts->bar($line->figures, $line->total->kind)" :label="$line->total->name" /></td>
              <td colspan="2" class="quiet"><small>all rows as read:
                  {{ $amounts->said($line->figures->sum('raw')) }}</small></td>
            </tr>
          @endif
        @endforeach
      </x-table>
    </div>
    <p class="quiet">On the left what rows that stand, or are kept, come to; on the right what their records say, read
      back
      by key. The bar is all that came in, as long as it is worth: what stands, what was merged, left out, held,
      rejected.
    </p>
  @endif
</x-layouts.app>
