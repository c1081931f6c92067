@php($ended = $page->round->hasEnded())
@if ($toConfirm)
  <h2>Left behind in earlier rounds, to be confirmed for the cutover</h2>
  <table class="sheet">
    <thead>
      <tr>
        <th>Load</th>
        <th>Failed for</th>
        <th class="n">Rows</th>
        <th>Left behind because</th>
      </tr>
    </thead>
    <tbody>
      @foreach ($toConfirm as $c)
        <tr>
          <td>{{ $page->definitions->loads()->firstWhere('id', $c->load_id)?->name }}</td>
          <td>{{ $c->message }} <x-raw :value="$c->value" /></td>
          <td class="n"><a
              href="{{ $page->url('rows') }}?load={{ $c->load_id }}&cause={{ $c->cause_id }}">{{ number_format($c->n) }}</a>
          </td>
          <td>{{ $c->reason }} <span class="quiet">{{ $c->who }}</span></td>
        </tr>
      @endforeach
    </tbody>
  </table>
  @can('repair', $m)
    <form class="mt-2" method="post" action="/m/{{ $m->id }}/rejects/waivers/confirm">@csrf<x-round
        :$page /><button class="btn">Confirm
        all of them for {{ $page->round->label() }}</button></form>
  @endcan
@endif
@if ($left)
  <h2>Left behind on purpose</h2>
  <table class="sheet">
    <thead>
      <tr>
        <th>Load</th>
        <th>Failed for</th>
        <th>Field and value</th>
        <th class="n">Rows</th>
        <th>Left behind because</th>
        <th><span class="sr-only">Take back</span></th>
      </tr>
    </thead>
    <tbody>
      @foreach ($left as ['cause' => $c, 'waiver' => $w])
        <tr class="hit">
          <td>{{ $page->definitions->loads()->firstWhere('id', $c->load_id)?->name }}</td>
          <td class="hang"><x-outcome outcome="waived" :word="false" />{{ $c->message }}</td>
          <td><span class="raw">{{ $c->field ?? 'whole row' }}</span>
            @if ($c->value !== null)
              <x-raw :value="$c->value" />
            @endif
          </td>
          <td class="n"><a
              href="{{ $page->url('rows') }}?load={{ $c->load_id }}&outcome=waived&cause={{ $c->id }}">{{ number_format($c->n) }}</a>
          </td>
          <td>{{ $w->reason ?? 'Taken back since; the rows are due.' }} @if ($w)
              <span class="quiet">{{ $w->user->name ?? 'the command line' }},
                {{ $w->created_at->format('j M Y') }}</span>
            @endif
          </td>
          <td>
            @can('repair', $m)
              @if ($w && !$ended)
                <form method="post" action="/m/{{ $m->id }}/rejects/loads/{{ $c->load_id }}/take-back">
                  @csrf<x-round :$page /><input type="hidden" name="cause" value="{{ $c->id }}"><button
                    class="btn small">Take
                    back</button></form>
              @endif
            @endcan
          </td>
        </tr>
      @endforeach
    </tbody>
  </table>
@endif
@if ($undecided)
  <h2 id="corrections">{{ $say->count($undecidedAll, 'correction') }} that did not carry into the newest take</h2>
  <p class="mb-1">They are not laid over it until somebody decides. The round goes on with the takes it has.</p>
  <form method="post" action="/m/{{ $m->id }}/rejects/corrections">@csrf<x-round :$page />
    <table class="sheet">
      <thead>
        <tr>
          <th><span class="sr-only">Choose</span></th>
          <th>Extract</th>
          <th>Row</th>
          <th>Column</th>
          <th>It said</th>
          <th>Corrected to</th>
          <th>Take says now</th>
          <th>So</th>
        </tr>
      </thead>
      <tbody>
        @foreach ($undecided as $c)
          <tr>
            <td>
              @can('repair', $m)
                <input type="checkbox" name="corrections[]" value="{{ $c->id }}"
                  aria-label="{{ $c->extract }}, {{ $c->key ?? 'row' }}, {{ $c->header }}">
              @endcan
            </td>
            <td><code>{{ $c->source }}</code> {{ $c->extract }}</td>
            <td class="raw whitespace-nowrap">{{ $c->key ?? 'no key' }}</td>
            <td>{{ $c->whole ? 'whole row' : $c->header }}</td>
            <td><x-raw :value="$say->short((string) $c->old_value, 60)" /></td>
            <td><x-raw :value="$say->short((string) $c->new_value, 60)" /> <small class="quiet">{{ $c->who }}
                {{ $c->reason }}</small></td>
            <td>
              @if ($c->row_no > 0)
                <x-raw :value="$c->found === null ? null : $say->short($c->found, 60)" />
              @endif
            </td>
            <td>{{ ucfirst($c->state->label()) }}, take {{ $c->take }}</td>
          </tr>
        @endforeach
      </tbody>
    </table>
    @can('repair', $m)
      <p class="row mt-2"><button class="btn small" name="what" value="go">Let the source stand</button>
        <button class="btn small" name="what" value="again">Correct the newer value too</button>
        @if ($undecidedAll > count($undecided))
          <span class="quiet">{{ count($undecided) }} of {{ number_format($undecidedAll) }} are shown.</span>
        @endif
      </p>
    @endcan
  </form>
@endif
