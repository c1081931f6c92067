<x-layouts.app :page="$page" title="Reconciliation">
  @php($columns = $outcomes['entities'])
  @php($broken = array_filter($proofs, fn($p) => !$p->holds()))
  @php($others = array_filter($proofs, fn($p) => $p->otherOrigin !== 0) !== [])
  @php($removed = array_filter($proofs, fn($p) => $p->removed !== 0) !== [])
  @php($stated = array_filter($proofs, fn($p) => $p->statedRows !== null) !== [])
  @php($total = array_sum(array_map(fn($p) => $p->feedRows, $proofs)))
  @php($sum = fn($of) => number_format(array_sum(array_map($of, $proofs))))
  @php($at = $page->url('gaps', $page->entity?->name))
  <div class="head">
    <div>
      <h1>
        {{ $page->entity ? $say->label($page->entity->name) . ' in' : 'Reconciliation of' }}
        {{ lcfirst($page->round->label()) }}
      </h1>
      <p>{{ number_format($total) }} rows came in, and this is what became of them.
        {{ $counted?->targetError ? '' : $tell->proofs(count($broken)) }}
        @php($notAsked = array_sum(array_intersect_key($page->notAsked(), $page->loads()->keyBy('id')->all())))
        @if ($notAsked > 0)
          {{ $say->count($notAsked, 'row was', 'rows were') }} not asked for: pending, and nothing anybody has to do.
        @endif
        <span id="counted"
          @if ($counted?->isAsked() && !$page->pass?->isGoing()) class="wait" hx-get="{{ request()->fullUrl() }}"
          hx-trigger="load delay:1500ms" hx-select="#work" hx-target="#work" hx-swap="outerHTML" @endif>
          {{ $tell->counted($counted, $page->pass) }}</span>
      </p>
    </div>
    @if (!$page->round->hasEnded() && !$page->pass?->isGoing())
      <form class="actions" method="post" action="/m/{{ $page->migration->id }}/reconciliation/count">@csrf<x-round
          :$page /><button class="btn" @disabled($counted?->isAsked())>Count again</button></form>
    @endif
  </div>
  <x-proofs-of :$page on="reconciliation" />
  @if ($counted?->targetError)
    <div class="note bad" role="alert">The target could not be counted: {{ $counted->targetError }}</div>
  @endif
  @if ($counted?->error)
    <div class="note bad" role="alert">{{ $counted->error }}</div>
  @endif
  <x-table :table="$entities" tight label="Count proof by entity">
    @foreach ($entities->rows() as $row)
      @php($proof = $row->proof)
      <tr class="hit">
        <td><a href="{{ $page->url('reconciliation', $row->entity) }}">{{ $say->label($row->entity) }}</a></td>
        <td class="min-w-24 pt-2!"><x-bar :bar="$say->bar($proof)" :label="$row->entity" tall /></td>
        @if ($stated)
          <td @class(['n', 'bad' => $proof->notDelivered() !== 0])>
            {{ $proof->statedRows === null ? '' : number_format($proof->statedRows) }}</td>
        @endif
        <td @class(['n', 'bad' => $proof->lostInReading() !== 0])>{{ number_format($proof->sourceRows) }}</td>
        <td class="n"><a href="{{ $page->url('rows', $row->entity) }}">{{ number_format($proof->feedRows) }}</a>
        </td>
        <x-outcome-cells :$proof :$page :entity="$row->entity" :beside="$beside['entities']" :$columns />
        <td class="n">{{ $proof->targetBefore === null ? '' : number_format($proof->targetBefore) }}</td>
        <td @class(['n', 'zero' => $proof->everMade() === 0])>{{ number_format($proof->everMade()) }}</td>
        @if ($removed)
          <td @class(['n', 'zero' => $proof->removed === 0])>{{ number_format($proof->removed) }}</td>
        @endif
        <td class="n">
          @if ($proof->targetAfter !== null)
            <a href="{{ $page->url('target', $row->entity) }}">{{ number_format($proof->targetAfter) }}</a>
          @endif
        </td>
        @if ($others)
          <td @class(['n', 'zero' => $proof->otherOrigin === 0])>{{ number_format($proof->otherOrigin) }}</td>
        @endif
        <td @class(['n', 'bad' => ($proof->targetGap() ?? 0) !== 0])>
          @if (($proof->targetGap() ?? 0) !== 0)
            <a href="{{ $page->url('gaps', $row->entity) }}">{{ number_format($proof->targetGap()) }}</a>
          @else
            {{ $proof->targetGap() }}
          @endif
        </td>
      </tr>
    @endforeach
    <x-slot:foot>
      @if (count($proofs) > 1 && !$entities->isFiltered())
        <tfoot>
          <tr>
            <td>All</td>
            <td></td>
            @if ($stated)
              <td></td>
            @endif
            <td class="n">{{ $sum(fn($p) => $p->sourceRows) }}</td>
            <td class="n"><a href="{{ $page->url('rows') }}">{{ number_format($total) }}</a></td>
            @foreach ($columns as $o)
              <td class="n"><a
                  href="{{ $page->url('rows') }}?outcome={{ $o }}">{{ $sum(fn($p) => $p->count($say->outcome($o))) }}</a>
              </td>
            @endforeach
            <td class="n"><a href="{{ $page->url('gaps') }}">{{ $sum(fn($p) => $p->unaccounted()) }}</a></td>
            @foreach ($beside['entities'] as $of => $title)
              <td class="n">{{ $sum(fn($p) => $p->outcomes[$of] ?? 0) }}</td>
            @endforeach
            <td class="n">{{ $sum(fn($p) => (int) $p->targetBefore) }}</td>
            <td class="n">{{ $sum(fn($p) => $p->everMade()) }}</td>
            @if ($removed)
              <td class="n">{{ $sum(fn($p) => $p->removed) }}</td>
            @endif
            <td class="n">{{ $sum(fn($p) => (int) $p->targetAfter) }}</td>
            @if ($others)
              <td class="n">{{ $sum(fn($p) => $p->otherOrigin) }}</td>
            @endif
            <td class="n">{{ $sum(fn($p) => (int) $p->targetGap()) }}</td>
          </tr>
        </tfoot>
      @endif
    </x-slot:foot>
  </x-table>
  <p class="legend">
    @foreach ($columns as $o)
      <span><x-outcome :outcome="$o" /></span>
    @endforeach
  </p>
  <p class="quiet">Source: rows as the source itself counts them: lines of a file, or a database's own count. Feed:
    rows
    frozen{{ $stated ? '; stated: what the client says there are' : '' }}. Target now − target before = records made,
    less
    those removed, or there is a
    gap{{ $others ? '; of other origin is what came or went between passes and since' : '' }}.</p>
  @if ($beside['entities'])
    <p class="quiet">Beside the sum: rows left out now whose record stands with the values it had, and rows delivered
      no
      more with what became of their records.</p>
  @endif
  <h2>By load</h2>
  @php($ofLoads = array_filter(array_map(fn($r) => $r->proof->statedRows, $loads->rows()), fn($n) => $n !== null) !== [])
  <x-table :table="$loads" tight label="Count proof by load">
    @foreach ($loads->rows() as $row)
      <tr class="hit">
        <td>{{ $row->load->name }}</td>
        <td><code class="short">{{ $row->load->source }}</code> {{ $row->load->extract }}</td>
        @if ($ofLoads)
          <td @class(['n', 'bad' => $row->proof->notDelivered() !== 0])>
            {{ $row->proof->statedRows === null ? '' : number_format($row->proof->statedRows) }}</td>
        @endif
        <td class="n">{{ number_format($row->proof->sourceRows) }}</td>
        <td class="n"><a
            href="{{ $page->url('rows', $row->load->entity) }}?load={{ $row->load->id }}">{{ number_format($row->proof->feedRows) }}</a>
        </td>
        <x-outcome-cells :proof="$row->proof" :$page :entity="$row->load->entity" :load="$row->load->id" :beside="$beside['loads']"
          :columns="$outcomes['loads']" />
      </tr>
    @endforeach
  </x-table>
  @if ($links->total() > 0)
    <h2>References set later</h2>
    <x-table :table="$links" label="References set later">
      @foreach ($links->rows() as $link)
        <tr>
          <td>{{ $page->all()->get($link->load_id)?->name }}</td>
          <td>{{ $link->field }}</td>
          <td class="n">
            @if ($link->made === null)
              not counted yet
            @elseif ($link->made === 0)
              0
            @else
              @php($at = $page->url('rows') . "?load={$link->load_id}&made=" . urlencode($link->field))
              <a href="{{ $at }}">{{ number_format($link->made) }}</a>
            @endif
          </td>
          <td @class(['n', 'wait' => $link->waiting > 0])>
            @if ($link->waiting > 0)
              @php($at = $page->url('rows') . "?load={$link->load_id}&waits=" . urlencode($link->field))
              <a href="{{ $at }}">{{ number_format($link->waiting) }}</a>
            @else
              0
            @endif
          </td>
        </tr>
      @endforeach
    </x-table>
  @endif
</x-layouts.app>
