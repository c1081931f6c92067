<x-layouts.app :page="$page" title="Rejects">
  @php($m = $page->migration)
  @php($one = $page->loads()->count() > 1)
  @php($at = $page->url('rejects', $page->entity?->name))
  <div class="head" id="due">
    <div>
      <h1>{{ $page->entity ? $say->label($page->entity->name) : 'All entities' }}:
        {{ number_format($counts['rejected']) }} {{ $counts['rejected'] === 1 ? 'row' : 'rows' }} rejected,
        {{ number_format($counts['held']) }} held</h1>
      <p>
        @if ($counts['rejected'])
          @isset($groups)
            {{ $say->count($groups->total(), 'kind of failure', 'kinds of failure') }}, those first whose repair frees
            most
            rows.
          @endisset
          Held rows load by themselves once their parent is there.
        @elseif ($counts['held'])
          Nothing is rejected here. The held rows wait for parents in other entities.
        @else
          Nothing is rejected and nothing is held.
        @endif
        @if ($page->isCountingDue())
          <span class="wait" hx-get="{{ request()->fullUrl() }}" hx-trigger="load delay:1s" hx-select="#due"
            hx-target="#due" hx-swap="outerHTML">Something was changed: which rows are due is being worked out.</span>
        @elseif ($counts['due'])
          {{ $say->count($counts['due'], 'row is', 'rows are') }} due:
          {{ $say->whyDue($counts['due'], $counts['again']) }}.
        @endif
        @if ($counts['corrections'] > 0)
          <a class="linkish"
            href="{{ $at }}?show=corrections">{{ $say->count($counts['corrections'], 'correction') }}</a>
          {{ $counts['corrections'] === 1 ? 'waits' : 'wait' }} for a decision.
        @endif
      </p>
    </div>
    @can('work', $m)
      <div class="actions">
        <x-again :$page />
      </div>
    @endcan
  </div>
  <x-works :works="$works" :m="$m" />
  <nav class="parts" aria-label="What is open">
    @foreach ($tell->rejectParts($counts, $page->round->kind === 'cutover') as $part => [$label, $n])
      <a href="{{ $at }}{{ $part === 'causes' ? '' : "?show=$part" }}"
        @if ($show === $part) aria-current="page" @endif>{{ $label }} {{ number_format($n) }}</a>
    @endforeach
  </nav>
  @if ($show === 'causes')
    <x-table :table="$groups" :hide="$one ? [] : ['load']" label="Causes" empty="No row is rejected.">
      @foreach ($groups->rows() as $group)
        @php($load = $page->all()->get($group->load))
        @php($isOpen = $open?->id() === $group->id())
        @php($href = request()->fullUrlWithQuery(['cause' => $isOpen ? null : $group->id()]))
        @php($task = $tasks[$group->id()] ?? null)
        <tr @class(['hit', 'chosen' => $isOpen]) id="{{ $group->anchor() }}">
          <td class="hang"><x-outcome outcome="rejected" :word="false" />{{ $group->title() }}</td>
          @if ($one)
            <td>{{ $load->name }}</td>
          @endif
          <td class="min-w-36"><span @class(['line-clamp-3' => mb_strlen((string) $group->value) > 120])><span
                class="raw">{{ $group->fieldTitle() }}</span>
              @if ($group->kinds <= 1 && $group->value !== null)
                <span class="raw">=</span> <x-raw :value="$say->ofCause($group)" />
              @endif
            </span>
          </td>
          <td>{{ $group->stage }}</td>
          <td class="n"><a href="{{ $page->alike($group) }}">{{ number_format($group->own) }}</a></td>
          <td @class(['n', 'zero' => $group->held === 0])>
            @if ($group->held > 0)
              <a href="{{ $page->alike($group, 'below') }}">{{ number_format($group->held) }}</a>
            @else
              0
            @endif
          </td>
          <td @class(['n', 'zero' => $group->due === 0])>
            @if ($group->due > 0)
              <a href="{{ $page->alike($group, 'due') }}">{{ number_format($group->due) }}</a>
            @else
              0
            @endif
          </td>
          <td class="n"><b>{{ number_format($group->freed()) }}</b></td>
          <td class="whitespace-nowrap">
            @if ($task)
              {{ $task->who }} @if ($task->until)
                <span @class(['quiet', 'bad' => $task->until < date('Y-m-d')])>{{ $task->until }}</span>
              @endif
            @endif
          </td>
          <td><a class="linkish" data-open @if ($isOpen) data-shut @endif
              href="{{ $href }}" aria-expanded="{{ $isOpen ? 'true' : 'false' }}"
              aria-label="{{ $isOpen ? 'Close' : 'Open' }}: {{ $group->title() }}, {{ $group->field }}">{{ $isOpen ? 'Close' : 'Open' }}</a>
          </td>
        </tr>
        @if ($isOpen)
          <tr class="open">
            <td colspan="{{ $one ? 10 : 9 }}">@include('rejects.detail')</td>
          </tr>
        @endif
      @endforeach
    </x-table>
  @elseif ($show === 'held')
    @if ($roots->total() > 0)
      <h2>By the cause in the end</h2>
      <x-table :table="$roots" label="Causes that hold rows in the end">
        @foreach ($roots->rows() as $group)
          <tr class="hit">
            <td class="hang"><x-outcome outcome="rejected" :word="false" /><a
                href="{{ $page->cause($group) }}">{{ $group->title() }}</a>
            </td>
            <td>{{ $page->all()->get($group->load)?->name }}</td>
            <td><span class="raw">{{ $group->fieldTitle() }}</span>
              @if ($group->kinds <= 1 && $group->value !== null)
                <span class="raw">=</span> <x-raw :value="$say->ofCause($group)" />
              @endif
            </td>
            <td class="n"><a href="{{ $page->alike($group, 'below') }}">{{ number_format($group->held) }}</a>
            </td>
          </tr>
        @endforeach
      </x-table>
      <h2>By the parent that waits</h2>
    @endif
    <x-table :table="$held" label="Parents that hold rows" empty="No row is held.">
      @foreach ($held->rows() as $h)
        <tr class="hit">
          <td><x-outcome outcome="held" :word="false" />{{ str_replace('_', ' ', $h->parent_entity) }} <x-tag
              :space="$h->parent_space" :legacy="$h->parent_key" :href="$page->trace($h->parent_space, $h->parent_key)" /></td>
          <td>{{ $page->all()->get($h->load_id)?->name }}</td>
          <td>
            {{ $tell->heldBecause($h, $because[$h->id] ?? '') }}
          </td>
          <td class="n"><a
              href="{{ $page->url('rows') }}?load={{ $h->load_id }}&outcome=held&cause={{ $h->id }}">{{ number_format($h->n) }}</a>
          </td>
        </tr>
      @endforeach
    </x-table>
    @if ($held->total() === $most)
      <p class="quiet mt-1">The {{ number_format($most) }} parents that hold most rows. <a class="linkish"
          href="{{ $page->url('rows', $page->entity?->name) }}?outcome=held">All held rows</a></p>
    @endif
  @elseif ($show === 'references')
    <x-table :table="$links" label="References that wait" empty="No reference waits.">
      @foreach ($links->rows() as $l)
        <tr>
          <td>{{ $page->loads()->firstWhere('id', $l->load_id)?->name }}</td>
          <td>{{ $l->field }}</td>
          <td class="n"><a
              href="{{ $page->url('rows') }}?load={{ $l->load_id }}&waits={{ urlencode($l->field) }}">{{ number_format($l->waiting) }}</a>
          </td>
          <td @class(['n', 'zero' => (int) $l->waived === 0])>
            @if ((int) $l->waived > 0)
              <a
                href="{{ $page->url('rows') }}?load={{ $l->load_id }}&open={{ urlencode($l->field) }}">{{ number_format($l->waived) }}</a>
            @else
              0
            @endif
          </td>
          <td>
            @can('repair', $m)
              @if ((int) $l->waiting > 0 && !$page->round->hasEnded())
                <div x-data="reveal"><button type="button" class="btn small" x-on:click="toggle"
                    x-bind:aria-expanded="open">Leave open</button>
                  <form x-show="open" x-cloak class="row mt-1" method="post"
                    action="/m/{{ $m->id }}/rejects/loads/{{ $l->load_id }}/references">@csrf<x-round
                      :$page /><input type="hidden" name="field" value="{{ $l->field }}"><label
                      for="open-{{ $loop->index }}">because</label><input id="open-{{ $loop->index }}" name="reason"
                      required data-first><button class="btn small">Leave
                      {{ $say->count((int) $l->waiting, 'reference') }} open</button></form>
                </div>
              @endif
            @endcan
          </td>
        </tr>
      @endforeach
    </x-table>
  @elseif ($show === 'repairs')
    @include('rejects.repairs')
  @elseif ($show === 'files')
    @include('rejects.files')
  @else
    @include('rejects.decided')
  @endif
</x-layouts.app>
