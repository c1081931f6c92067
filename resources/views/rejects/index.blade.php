<x-layouts.app :page="$page" title="Rejects">
  @php($m = $page->migration)
  @php($going = $page->pass?->isGoing() || $page->pass?->canResume())
  @php($one = $page->loads()->count() > 1)
  <div class="head" id="due">
    <div>
      <h1>{{ $page->entity ? $say->label($page->entity->name) : 'All entities' }}:
        {{ number_format($counts['rejected']) }} {{ $counts['rejected'] === 1 ? 'row' : 'rows' }} rejected,
        {{ number_format($counts['held']) }} held</h1>
      <p>
        @if ($groups)
          {{ $say->count(count($groups), 'kind of failure', 'kinds of failure') }}, those first whose repair
          frees most rows. Held rows load by themselves once their parent is there.
        @elseif ($counts['held'])
          Nothing is rejected here. The held rows wait for parents in other entities.
        @else
          Nothing is rejected and nothing is held.
        @endif
        @if ($page->isCountingDue())
          <span class="wait" hx-get="{{ request()->fullUrl() }}" hx-trigger="load delay:1s" hx-select="#due"
            hx-target="#due" hx-swap="outerHTML">Something was changed: which rows are due is being worked out.</span>
        @elseif ($counts['due'])
          {{ $say->count($counts['due'], 'row is', 'rows are') }} due: what they failed for was changed.
        @endif
        @if ($undecidedAll > 0)
          <a class="linkish" href="#corrections">{{ $say->count($undecidedAll, 'correction') }}</a>
          {{ $undecidedAll === 1 ? 'waits' : 'wait' }} for a decision.
        @endif
      </p>
    </div>
    @can('work', $m)<div class="actions">
        @if ($page->due() > 0)
          <form method="post" action="/m/{{ $m->id }}/runs/again">@csrf<x-round :$page /><button class="btn main"
              @disabled($going)>Load {{ $say->count($page->due(), 'row') }} again</button></form>
        @endif
      </div>
    @endcan
  </div>
  <table class="sheet">
    <thead>
      <tr>
        <th>Cause</th>
        @if ($one)
          <th>Load</th>
        @endif
        <th>
          Field and value</th>
        <th>Stage</th>
        <th class="n">Own rows</th>
        <th class="n">Held below</th>
        <th class="n">Due</th>
        <th class="n">Freed by a repair</th>
        <th><span class="sr-only">Open</span></th>
      </tr>
    </thead>
    <tbody>
      @forelse ($groups as $group)
        @php($load = $page->loads()->firstWhere('id', $group->load))
        @php($isOpen = $open?->id() === $group->id())
        @php($href = $page->url('rejects', $page->entity?->name) . ($isOpen ? '' : '?cause=' . urlencode($group->id())))
        <tr @class(['hit', 'chosen' => $isOpen]) id="cause-{{ $loop->index }}">
          <td class="hang"><x-outcome outcome="rejected" :word="false" />{{ $group->title() }}</td>
          @if ($one)
            <td>{{ $load->name }}</td>
          @endif
          <td><span class="raw">{{ $group->fieldTitle() }}</span>
            @if ($group->kinds <= 1 && $group->value !== null)
              <span class="raw">=</span> <x-raw :value="$group->value" />
            @endif
          </td>
          <td>{{ $group->stage }}</td>
          <td class="n">{{ number_format($group->own) }}</td>
          <td @class(['n', 'zero' => $group->held === 0])>{{ number_format($group->held) }}</td>
          <td @class(['n', 'zero' => $group->due === 0])>{{ number_format($group->due) }}</td>
          <td class="n"><b>{{ number_format($group->freed()) }}</b></td>
          <td><a class="linkish" href="{{ $href }}" aria-expanded="{{ $isOpen ? 'true' : 'false' }}"
              aria-label="{{ $isOpen ? 'Close' : 'Open' }}: {{ $group->message }}, {{ $group->field }}">{{ $isOpen ? 'Close' : 'Open' }}</a>
          </td>
        </tr>
        @if ($isOpen)
          <tr class="open">
            <td colspan="{{ $one ? 9 : 8 }}">@include('rejects.detail')</td>
          </tr>
        @endif
      @empty
        <tr>
          <td colspan="9">No row is rejected.</td>
        </tr>
      @endforelse
    </tbody>
  </table>
  @if ($held)
    <h2>Held, waiting for a parent</h2>
    <table class="sheet">
      <thead>
        <tr>
          <th>Waits for</th>
          <th>Rows of</th>
          <th>Because it is</th>
          <th class="n">Rows</th>
        </tr>
      </thead>
      <tbody>
        @foreach ($held as $h)
          <tr class="hit">
            <td><x-outcome outcome="held" :word="false" />{{ str_replace('_', ' ', $h->parent_entity) }} <x-tag
                :space="$h->parent_space" :legacy="$h->parent_key" :href="$page->trace($h->parent_space, $h->parent_key)" /></td>
            <td>{{ $page->definitions->loads()->firstWhere('id', $h->load_id)?->name }}</td>
            <td>
              {{ $tell->heldBecause($h) }}
            </td>
            <td class="n"><a
                href="{{ $page->url('rows') }}?load={{ $h->load_id }}&outcome=held&cause={{ $h->id }}">{{ number_format($h->n) }}</a>
            </td>
          </tr>
        @endforeach
      </tbody>
    </table>
    @if (count($held) === 50)
      <p class="quiet mt-1">The 50 parents that hold most rows. <a class="linkish"
          href="{{ $page->url('rows', $page->entity?->name) }}?outcome=held">All held rows</a></p>
    @endif
  @endif
  @include('rejects.decided')
  @if ($links)
    <h2>Loaded, but a reference still waits</h2>
    <table class="sheet">
      <thead>
        <tr>
          <th>Load</th>
          <th>Field</th>
          <th class="n">References waiting</th>
          <th class="n">Left open</th>
          <th><span class="sr-only">Leave open</span></th>
        </tr>
      </thead>
      <tbody>
        @foreach ($links as $l)
          <tr>
            <td>{{ $page->loads()->firstWhere('id', $l->load_id)?->name }}</td>
            <td>{{ $l->field }}</td>
            <td class="n"><a
                href="{{ $page->url('rows') }}?load={{ $l->load_id }}&waits={{ urlencode($l->field) }}">{{ number_format($l->waiting) }}</a>
            </td>
            <td @class(['n', 'zero' => (int) $l->waived === 0])>{{ number_format($l->waived) }}</td>
            <td>
              @can('repair', $m)
                @if ((int) $l->waiting > 0 && !$page->round->hasEnded())
                  <div x-data="reveal"><button type="button" class="btn small" x-on:click="toggle"
                      x-bind:aria-expanded="open">Leave open</button>
                    <form x-show="open" x-cloak class="row mt-1" method="post"
                      action="/m/{{ $m->id }}/rejects/loads/{{ $l->load_id }}/references">@csrf<x-round
                        :$page /><input type="hidden" name="field" value="{{ $l->field }}"><label
                        for="open-{{ $loop->index }}">because</label><input id="open-{{ $loop->index }}"
                        name="reason" required data-first><button class="btn small">Leave
                        {{ $say->count((int) $l->waiting, 'reference') }} open</button></form>
                  </div>
                @endif
              @endcan
            </td>
          </tr>
        @endforeach
      </tbody>
    </table>
  @endif
</x-layouts.app>
