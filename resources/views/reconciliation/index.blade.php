<x-layouts.app :page="$page" title="Reconciliation">
  @php($columns = ['loaded', 'updated', 'unchanged', 'merged', 'excluded', 'held', 'rejected', 'waived', 'pending'])
  @if (!$page->round)
    <div class="head">
      <div>
        <h1>Reconciliation</h1>
        <p>There are no figures before the first round. <a class="linkish" href="{{ $page->url('runs') }}">Begin one at
            Runs.</a></p>
      </div>
    </div>
  @else
    @php($shown = array_filter($entities, fn($e) => !$page->entity || $page->entity->name === $e, ARRAY_FILTER_USE_KEY))
    @php($broken = array_filter($shown, fn($p) => !$p->holds()))
    @php($others = array_filter($shown, fn($p) => $p->otherOrigin !== 0) !== [])
    @php($total = array_sum(array_map(fn($p) => $p->feedRows, $shown)))
    <div class="head">
      <div>
        <h1>
          {{ $page->entity ? $say->label($page->entity->name) . ' in' : 'Reconciliation of' }}
          {{ lcfirst($page->round->label()) }}
        </h1>
        <p>{{ number_format($total) }} rows came in, and this is what became of them.
          {{ $proofs->targetError ? '' : $tell->proofs(count($broken)) }}
          @php($notAsked = array_sum(array_intersect_key($page->notAsked(), $page->loads()->keyBy('id')->all())))
          @if ($notAsked > 0)
            {{ $say->count($notAsked, 'row was', 'rows were') }} not asked for: pending, and nothing anybody has to do.
          @endif
        </p>
      </div>
    </div>
    @if ($proofs->targetError)
      <div class="note bad" role="alert">The target could not be counted: {{ $proofs->targetError }}</div>
    @endif
    <div class="scroll-x" tabindex="0" role="region" aria-label="Count proof by entity">
      <table class="sheet tight">
        <thead>
          <tr>
            <th>Entity</th>
            <th>Count proof</th>
            <th class="n">Source</th>
            <th class="n">Feed</th>
            @foreach ($columns as $o)
              <th class="n">{{ ucfirst($o) }}</th>
            @endforeach
            <th class="n">
              Unac-<br>counted</th>
            <th class="n">Target<br>before</th>
            <th class="n">Target<br>now</th>
            @if ($others)
              <th class="n">Of other<br>origin</th>
            @endif
            <th class="n">Gap</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($shown as $entity => $proof)
            <tr class="hit">
              <td><a href="{{ $page->url('reconciliation', $entity) }}">{{ $say->label($entity) }}</a></td>
              <td class="min-w-24 pt-2!"><x-proof-bar :proof="$proof" :label="$entity" tall /></td>
              <td @class(['n', 'bad' => $proof->lostInReading() !== 0])>{{ number_format($proof->sourceRows) }}</td>
              <td class="n"><a href="{{ $page->url('rows', $entity) }}">{{ number_format($proof->feedRows) }}</a>
              </td>
              <x-outcome-cells :proof="$proof" :columns="$columns" :say="$say" :rows="$page->url('rows', $entity)" />
              <td class="n">{{ $proof->targetBefore === null ? '' : number_format($proof->targetBefore) }}</td>
              <td class="n">{{ $proof->targetAfter === null ? '' : number_format($proof->targetAfter) }}</td>
              @if ($others)
                <td @class(['n', 'zero' => $proof->otherOrigin === 0])>{{ number_format($proof->otherOrigin) }}</td>
              @endif
              <td @class(['n', 'bad' => ($proof->targetGap() ?? 0) !== 0])>
                {{ $proof->targetGap() === null ? '' : number_format($proof->targetGap()) }}</td>
            </tr>
          @endforeach
        </tbody>
        @if (count($shown) > 1)
          <tfoot>
            <tr>
              <td>All</td>
              <td></td>
              <td class="n">{{ number_format(array_sum(array_map(fn($p) => $p->sourceRows, $shown))) }}</td>
              <td class="n">{{ number_format($total) }}</td>
              @foreach ($columns as $o)
                <td class="n">
                  {{ number_format(array_sum(array_map(fn($p) => $p->count($say->outcome($o)), $shown))) }}
                </td>
              @endforeach
              <td class="n">
                {{ number_format(array_sum(array_map(fn($p) => $p->unaccounted(), $shown))) }}</td>
              <td colspan="{{ $others ? 4 : 3 }}"></td>
            </tr>
          </tfoot>
        @endif
      </table>
    </div>
    <p class="legend">
      @foreach ($columns as $o)
        <span><x-outcome :outcome="$o" /></span>
      @endforeach
    </p>
    <p class="quiet">Source: rows by the file's lines alone. Feed: rows frozen. Target now − target before = records
      made, or there is a
      gap{{ $others ? '; of other origin is what came or went between passes and since' : '' }}.</p>
    <h2>By load</h2>
    <div class="scroll-x" tabindex="0" role="region" aria-label="Count proof by load">
      <table class="sheet tight">
        <thead>
          <tr>
            <th>Load</th>
            <th>Reads</th>
            <th class="n">Source</th>
            <th class="n">Feed</th>
            @foreach ($columns as $o)
              <th class="n">{{ ucfirst($o) }}</th>
            @endforeach
            <th class="n">
              Unac-<br>counted</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($page->loads() as $load)
            @php($proof = $loads[$load->id] ?? null)
            @continue($proof === null)
            <tr class="hit">
              <td>{{ $load->name }}</td>
              <td><code>{{ $load->extract->source->code }}</code> {{ $load->extract->name }}</td>
              <td class="n">{{ number_format($proof->sourceRows) }}</td>
              <td class="n">{{ number_format($proof->feedRows) }}</td>
              <x-outcome-cells :proof="$proof" :columns="$columns" :say="$say" :rows="$page->url('rows', $load->entity->name)"
                :load="$load->id" />
            </tr>
          @endforeach
        </tbody>
      </table>
    </div>
    @if ($links)
      <h2>References set later</h2>
      <table class="sheet">
        <thead>
          <tr>
            <th>Load</th>
            <th>Field</th>
            <th class="n">Set</th>
            <th class="n">Waiting for their parent</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($links as $link)
            @php($load = $page->loads()->firstWhere('id', $link->load_id))@continue(!$load)<tr>
              <td>{{ $load->name }}</td>
              <td>{{ $link->field }}</td>
              <td class="n">{{ number_format($link->made) }}</td>
              <td @class(['n', 'wait' => $link->waiting > 0])>{{ number_format($link->waiting) }}</td>
            </tr>
          @endforeach
        </tbody>
      </table>
    @endif
  @endif
</x-layouts.app>
