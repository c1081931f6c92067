@php($ended = $page->round->hasEnded())
@if ($show === 'left')
  @if ($toConfirm->total() > 0)
    <h2>Left behind in earlier rounds, to be confirmed for the cutover</h2>
    <x-table :table="$toConfirm" label="To be confirmed">
      @foreach ($toConfirm->rows() as $c)
        <tr>
          <td>{{ $page->all()->get($c->load_id)?->name }}</td>
          <td>{{ $c->message }} <x-raw :value="$say->ofCause($c)" /></td>
          <td class="n"><a
              href="{{ $page->url('rows') }}?load={{ $c->load_id }}&cause={{ $c->cause_id }}">{{ number_format($c->n) }}</a>
          </td>
          <td>{{ $c->reason }} <span class="quiet">{{ $c->who }}</span></td>
        </tr>
      @endforeach
    </x-table>
    @can('repair', $m)
      <form class="mt-2" method="post" action="/m/{{ $m->id }}/rejects/waivers/confirm">@csrf<x-round
          :$page /><button class="btn">Confirm
          all of them for {{ $page->round->label() }}</button></form>
    @endcan
  @endif
  <x-table :table="$left" label="Left behind on purpose" empty="Nothing was left behind.">
    @foreach ($left->rows() as $c)
      @php($w = $waivers["$c->load_id $c->waive_hash"] ?? null)
      <tr class="hit">
        <td>{{ $page->all()->get($c->load_id)?->name }}</td>
        <td class="hang"><x-outcome outcome="waived" :word="false" />{{ $c->message }}</td>
        <td><span class="raw">{{ $c->field ?? 'whole row' }}</span>
          @if ($c->value !== null)
            <x-raw :value="$say->ofCause($c)" />
          @endif
        </td>
        <td class="n"><a
            href="{{ $page->url('rows') }}?load={{ $c->load_id }}&outcome=waived&cause={{ $c->id }}">{{ number_format($c->n) }}</a>
        </td>
        <td>{{ $w->reason ?? 'Taken back since; the rows are due.' }} @if ($w)
            <span class="quiet">{{ $w->user->name ?? 'the command line' }},
              {{ $say::when($w->created_at, 'day') }}</span>
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
  </x-table>
  @if ($byPlan->total() > 0)
    <h2>Excluded and merged</h2>
    <x-table :table="$byPlan" label="Excluded and merged">
      @foreach ($byPlan->rows() as $l)
        <tr class="hit">
          <td><x-outcome :outcome="$l->outcome" /></td>
          <td>{{ $page->all()->get($l->load_id)?->name }}</td>
          <td>{{ $l->why }}</td>
          <td class="n"><a href="{{ $page->behind($l) }}">{{ number_format($l->n) }}</a>
          </td>
          <td>{{ $l->who }} <span class="quiet">{{ $say::when($l->at, 'day') }}</span></td>
        </tr>
      @endforeach
    </x-table>
  @endif
@else
  <p class="mb-1">Corrections that did not carry into the newest take are not laid over it until somebody decides. The
    round goes on with the takes it has.</p>
  <form id="decide" method="post" action="/m/{{ $m->id }}/rejects/corrections">@csrf<x-round :$page />
  </form>
  <x-table :table="$undecided" label="Corrections to decide" empty="Every correction carried.">
    @foreach ($undecided->rows() as $c)
      <tr>
        <td>
          @can('repair', $m)
            <input form="decide" type="checkbox" name="corrections[]" value="{{ $c->id }}"
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
  </x-table>
  @can('repair', $m)
    @if ($undecided->count() > 0)
      <p class="row mt-2"><button form="decide" class="btn small" name="what" value="go">Let the source
          stand</button>
        <button form="decide" class="btn small" name="what" value="again">Correct the newer value too</button>
      </p>
    @endif
  @endcan
@endif
