@props(['page', 'title'])
@php($stops = $page->stops())
@php($rail = $page->rail())
@php($keys = array_keys($stops))
@php($at = array_search($page->stop, $keys, true))
@php($names = $page->entityNames())
@php($nth = $page->entity === null ? -1 : array_search($page->entity->name, $names, true))
<x-layouts.bare :title="$title . ' · Baggage'">
  <a class="skip" href="#work">To the work area</a>
  <div id="busy" role="status" hidden><span class="sr-only">It has begun</span></div>
  <div class="shell" data-drafts="/m/{{ $page->migration->id }}/draft">
    <header class="band">
      <div class="band-top">
        <a class="brand" href="/"><x-brand />Baggage</a>
        <span><a href="/" class="no-underline">{{ $page->migration->name }}</a> <span class="quiet">to</span>
          {{ $page->migration->target_name }}</span>
        @if ($page->round)
          <form method="post" action="{{ $page->url('runs') }}/look" class="row">
            @csrf
            <label for="look" class="sr-only">Round to look at</label>
            <select id="look" name="round" data-send>
              @foreach ($page->rounds as $round)
                <option value="{{ $round->id }}" @selected($round->id === $page->round->id)>{{ $round->label() }}</option>
              @endforeach
            </select>
          </form>
        @endif
        <form class="trace-box" action="/m/{{ $page->migration->id }}/trace" role="search">
          <label for="trace" class="sr-only">Trace a key</label>
          <input id="trace" name="q" placeholder="Trace a key"
            value="{{ request()->routeIs('trace') ? request('q') : '' }}" autocomplete="off"
            title="Any legacy or new key ( / )">
          <kbd aria-hidden="true">/</kbd>
        </form>
        <div class="who">
          <a href="/account">{{ auth()->user()->name }}</a>
          <a href="/m/{{ $page->migration->id }}/people"
            title="People of this migration">{{ auth()->user()->roleIn($page->migration)?->value }}</a>
          <button type="button" data-help title="Keys ( ? )">Keys</button>
          <form method="post" action="/logout">@csrf<button>Log out</button></form>
        </div>
      </div>
      <nav class="route" id="route" aria-label="The route">
        @foreach ($stops as $stop => $info)
          <a href="{{ $page->url($stop, $page->entity?->name) }}" @class(['done' => $info['done']])
            @if ($stop === $page->stop) aria-current="page" @endif
            @if ($at !== false && ($keys[$at - 1] ?? null) === $stop) data-stop-before title="Previous stop ( [ )" @endif
            @if ($at !== false && ($keys[$at + 1] ?? null) === $stop) data-stop-after title="Next stop ( ] )" @endif>
            <b>{{ $info['label'] }}</b><small>{{ $info['open'] }}</small>
          </a>
        @endforeach
      </nav>
    </header>
    <nav @class(['rail', 'dense' => count($names) >= 10]) aria-label="Entities in load order">
      <button type="button" class="rail-fold" data-fold="rail" aria-expanded="false" aria-controls="rail"><span>Entity:
          <b>{{ $page->entity ? $say->label($page->entity->name) : 'all entities' }}</b></span></button>
      <div id="rail" class="rail-list">
        <a href="{{ $page->url($page->stop) }}" @if (!$page->entity) aria-current="page" @endif
          @if ($nth === 0) data-entity-before @endif>
          <span>All entities
            <i>{{ number_format($page->rows()) }}</i></span>
        </a>
        @foreach ($rail as $wave)
          <p>
            {{ $wave['wave'] !== null ? 'Wave ' . $wave['wave'] : ($page->orderError() ? 'Without an order' : 'No load yet') }}
          </p>
          @foreach ($wave['entities'] as $entity)
            @php($i = array_search($entity->name, $names, true))
            <a href="{{ $page->url($page->stop, $entity->name) }}"
              @if ($page->entity?->name === $entity->name) aria-current="page" @endif
              @if ($i === $nth + 1) data-entity-after title="Next entity ( j )" @endif
              @if ($i === $nth - 1) data-entity-before title="Previous entity ( k )" @endif>
              <span>{{ $entity->label() }} @if ($entity->proof)
                  <i>{{ number_format($entity->rows()) }}</i>
                @endif
              </span>
              @if ($entity->proof)
                <x-bar :bar="$say->bar($entity->proof)" :label="$entity->label()" />
              @endif
            </a>
          @endforeach
        @endforeach
      </div>
    </nav>
    <main class="work" id="work" tabindex="-1">
      <div id="told" role="status"></div>
      <x-told />
      @if ($page->orderError() && $page->stop !== 'order')
        <div class="note bad" role="alert">{{ $page->orderError() }}</div>
      @endif
      {{ $slot }}
    </main>
    <x-run-strip :page="$page" />
  </div>
  <aside id="drawer" class="drawer" aria-label="Journey of a row"></aside>
  <dialog id="help" class="help" aria-labelledby="help-title">
    <h1 id="help-title">Keys</h1>
    <dl class="pair">
      <dt><kbd>/</kbd></dt>
      <dd>Trace a legacy or new key</dd>
      <dt><kbd>[</kbd> <kbd>]</kbd></dt>
      <dd>Previous, next stop</dd>
      <dt><kbd>j</kbd> <kbd>k</kbd></dt>
      <dd>Next, previous entity</dd>
      <dt><kbd>Enter</kbd></dt>
      <dd>Open; in a rule, take the only completion, or keep it and go on to the next (Shift with Enter for a new line)
      </dd>
      <dt><kbd>↑</kbd> <kbd>↓</kbd> <kbd>Space</kbd></dt>
      <dd>In a table: the row before, the next one; mark it</dd>
      <dt><kbd>Esc</kbd></dt>
      <dd>Close what is open: a note, a line, a list, the drawer</dd>
      <dt><kbd>?</kbd></dt>
      <dd>This list</dd>
    </dl>
    <p class="mt-3"><label class="row"><input type="checkbox" id="letters" checked> Single letters and signs are
        keys,
        except after typing</label></p>
    <p class="actions mt-3"><button type="button" class="btn" data-close-help>Close</button></p>
  </dialog>
</x-layouts.bare>
