<x-layouts.app :page="$page" :title="$kept ? $total->name : 'State a control total'">
  @php($m = $page->migration)
  @php($action = "/m/{$m->id}/total" . ($kept ? "/$kept->id" : ''))
  @php($of = fn(string $name, $now) => old($name, $now))
  <div class="head">
    <div>
      <h1>{{ $kept ? $total->name : 'State a control total' }}</h1>
      <p>Of {{ $say->label((string) $page->entity?->name) }}. @if (!$kept)
          Of another entity:
          @foreach ($entities as $e)
            @if ($e !== $page->entity?->name)
              <a class="linkish" href="/m/{{ $m->id }}/total?entity={{ $e }}">{{ $say->label($e) }}</a>
            @endif
          @endforeach
        @endif
      </p>
    </div>
    <div class="actions">
      @if ($kept)
        <form method="post" action="{{ $action }}">@csrf @method('delete')<button class="btn">Remove it</button>
        </form>
      @endif
      <a class="btn" href="{{ $page->url('totals-stated', $page->entity?->name) }}">Back to the sheet</a>
    </div>
  </div>
  <div hidden id="words" data-words="{{ json_encode($words) }}"></div>
  <form method="post" action="{{ $action }}" class="panel total-form" novalidate
    hx-post="/m/{{ $m->id }}/total/try" hx-params="not _method" hx-trigger="input delay:200ms, change"
    hx-target="#trial" hx-swap="outerHTML" hx-sync="this:replace">
    @csrf
    @if ($kept)
      @method('put')
    @endif
    <input type="hidden" name="entity" value="{{ $page->entity?->name }}"><input type="hidden" name="kept"
      value="{{ $kept->id ?? 0 }}"><input type="hidden" name="version"
      value="{{ $of('version', $kept->version ?? 0) }}">
    <div class="grid-form">
      <label class="stack">Name<input name="name" required maxlength="100"
          value="{{ $of('name', $total->name) }}"></label>
      <label class="stack">Over<select name="load">
          <option value="">all its loads</option>
          @foreach ($loads as $l)
            <option @selected($of('load', $total->load) === $l->name)>{{ $l->name }}</option>
          @endforeach
        </select></label>
      <label class="stack">Kind<select name="kind">
          @foreach ($kinds as $k)
            <option value="{{ $k->value }}" @selected($of('kind', $total->kind->value) === $k->value)>{{ $k->label() }}</option>
          @endforeach
        </select></label>
      <label class="stack">Field of the record<select name="field">
          @foreach ($fields as $f)
            <option @selected($of('field', $total->field) === $f)>{{ $f }}</option>
          @endforeach
        </select></label>
    </div>
    <h2>What a legacy row counts with</h2>
    @foreach ($loads as $l)
      <x-expression :$total :load="$l->name" kind="legacy" label="Legacy expression of" placeholder="not counted" />
    @endforeach
    <h2>Groups that are counted each by itself</h2>
    <div class="grid-form">
      <label class="stack">By the field<select name="group_field">
          <option value="">no groups</option>
          @foreach ($fields as $f)
            <option @selected($of('group_field', $total->groupField) === $f)>{{ $f }}</option>
          @endforeach
        </select></label>
      <label class="stack">By its<select name="group_of">
          @foreach ($groups as $g)
            <option value="{{ $g->value }}" @selected($of('group_of', $total->groupBy->value) === $g->value)>
              {{ $g->value }}</option>
          @endforeach
        </select></label>
    </div>
    @foreach ($loads as $l)
      <x-expression :$total :load="$l->name" kind="group" label="Group of a row of"
        placeholder="the group of a legacy row" />
    @endforeach
    @if ($references !== [])
      <h2>What the children of each record must add up to</h2>
      @if ($parentFields === [])
        <p class="quiet">Group by a reference ({{ implode(', ', $references) }}) and keep it: then a field of the
          record
          referred to can be chosen here.</p>
      @else
        <div class="grid-form"><label class="stack">Field of the parent<select name="parent_field">
              <option value="">nothing</option>
              @foreach ($parentFields as $f)
                <option @selected($of('parent_field', $total->parentField) === $f)>{{ $f }}</option>
              @endforeach
            </select></label></div>
        @foreach ($parents as $l)
          <x-expression :$total :load="$l->name" kind="parent" label="The same of a row of" placeholder="" />
        @endforeach
      @endif
    @endif
    <h2>What difference is accepted</h2>
    <div class="grid-form">
      <label class="stack">Up to<input name="tolerance" inputmode="decimal"
          value="{{ $of('tolerance', $total->tolerance) }}"></label>
      <label class="stack">Because<input name="because" maxlength="500"
          value="{{ $of('because', $total->because) }}"></label>
    </div>
    <p class="mt-3"><button class="btn main">{{ $kept ? 'Keep' : 'State it' }}</button></p>
  </form>
  @include('totals.trial')
</x-layouts.app>
