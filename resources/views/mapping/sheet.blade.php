<x-layouts.app :page="$page" title="{{ $say->label($page->entity->name) }} mapping">
  @php($m = $page->migration)
  @php($ruled = $load->rules->whereNotNull('expression')->count())
  @php($columns = $load->extract->tidyColumns()->all)
  <div hidden hx-get="{{ request()->fullUrl() }}" hx-trigger="sheet-kept from:body" hx-swap="none"
    hx-select-oob="#route,#sheet-head,#sheet-problem,#check,#suggested,#sheet-undo,#field-tabs,#shelf-part"></div>
  <div class="head" id="sheet-head">
    <div>
      <h1>{{ $say->label($page->entity->name) }}</h1>
      <p>From <b>{{ $load->extract->source->code }}</b> {{ $load->extract->source->name }}, extract
        {{ $load->extract->name }}, {{ number_format($load->extract->take?->rows ?? 0) }} rows. {{ $ruled }} of
        {{ count($writable) }} fields have a rule. Key:
        <code>{{ implode(' / ', $load->key_columns) }}</code>{{ $load->namesSpace() ? ' in the key space ' . $load->keySpace() : '' }}.
        {{ $tell->policyOf($load) }}.
        @if ($load->scope)
          <br>Only rows where <code>{{ $load->scope }}</code>; the others are excluded:
          {{ lcfirst((string) $load->scope_reason) }}.
        @endif
      </p>
    </div>
    <div class="actions">
      @can('work', $m)
        <form method="post" action="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/check">@csrf<button
            class="btn small" @disabled($problem || $checked['check']?->isGoing()) title="without the target">Check all
            {{ number_format($load->extract->take?->rows ?? 0) }} rows</button></form>
        @endcan @foreach ($loads as $l)
          <a class="btn small" href="{{ $page->url('mapping', $page->entity->name) }}?load={{ $l->id }}"
            @if ($l->id === $load->id) aria-current="true" @endif>{{ $l->id === $load->id ? '● ' : '' }}{{ $l->name }}</a>
        @endforeach
      </div>
    </div>
    <div id="sheet-problem">
      @if ($problem)
        <div class="note bad" role="alert">{{ $problem }}</div>
      @endif
    </div>
    @include('mapping.check', $checked)
    <div id="suggested">
      @if ($suggestions !== [])
        <details class="panel check" @if ($ruled === 0 || session('suggestions')) open @endif>
          <summary>{{ $say->count(count($suggestions), 'suggestion') }} for fields without a rule</summary>
          @can('work', $m)
            <form method="post" action="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/suggested">@csrf
              <p class="mt-2"><button class="btn small">Use those ticked</button>
                @if (count($suggestions) > 25)
                  <span class="quiet">{{ count($suggestions) - 25 }} more come after these.</span>
                @endif
              </p>
            @endcan
            <table class="sheet mt-2">
              <thead>
                <tr>
                  <th>Field</th>
                  <th>Rule</th>
                  <th>Because</th>
                  <td></td>
                </tr>
              </thead>
              <tbody>
                @foreach (array_slice($suggestions, 0, 25) as $s)
                  <tr>
                    <td><label class="plain" for="s-{{ $s->field }}">
                        @can('work', $m)
                          <input type="checkbox" name="fields[]" value="{{ $s->field }}" id="s-{{ $s->field }}"
                            @checked($s->isSure)>
                          @endcan{{ $s->field }}</label></td>
                      <td><code>{{ $s->expression }}</code></td>
                      <td>{{ $s->reason }}</td>
                      <td>
                        @can('work', $m)
                          <button class="linkish whitespace-nowrap"
                            formaction="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/suggested?only={{ $s->field }}"
                            name="fields[]" value="{{ $s->field }}" aria-label="Use this one: {{ $s->field }}">Use
                            this one</button>
                        @endcan
                      </td>
                    </tr>
                  @endforeach
                </tbody>
              </table>
              @can('work', $m)
              </form>
            @endcan
          </details>
        @endif
      </div>
      @include('mapping.news', ['migration' => $m, 'since' => (int) $last?->id, 'changes' => collect()])
      @php($numbers = array_keys($sheet->sample))
      @php($all = (int) ($load->extract->take?->rows ?? 0))
      @php($at = $page->url('mapping', $page->entity->name) . "?load={$load->id}")
      <div class="row mb-2" id="which">
        <form class="row" action="{{ $page->url('mapping', $page->entity->name) }}"><input type="hidden" name="load"
            value="{{ $load->id }}"><label for="rows">Tried on rows</label><input id="rows" name="rows"
            value="{{ implode(', ', $numbers) }}" size="14"><button class="btn small">Show</button></form>
        <a class="btn small" data-rows-before
          href="{{ $at }}&rows={{ implode(',', array_map(fn($r) => max(1, $r - 3), $numbers)) }}"
          title="Three rows back ( Alt and arrow up )">Rows before</a><a class="btn small" data-rows-after
          href="{{ $at }}&rows={{ implode(',', array_map(fn($r) => min($all, $r + 3), $numbers)) }}"
          title="Three rows on ( Alt and arrow down )">Rows after</a>
        <form class="row" action="{{ $page->url('mapping', $page->entity->name) }}" x-data="picker"><input
            type="hidden" name="load" value="{{ $load->id }}"><label for="pick" class="sr-only">Choose
            rows</label><select id="pick" name="pick" x-model="kind">
            @foreach ($say::SAMPLES as $kind => $label)
              <option value="{{ $kind }}" @selected(request('pick') === $kind)>{{ $label }}</option>
            @endforeach
          </select>
          <select name="column" aria-label="Column" x-show="column" x-cloak>
            @foreach ($columns as $column)
              <option value="{{ $column->name }}" @selected(request('column') === $column->name)>{{ $column->header }}</option>
            @endforeach
          </select>
          <input name="value" aria-label="Value" x-show="value" x-cloak size="12"
            value="{{ request('value') }}"><button class="btn small">Take these</button>
        </form>
        <span class="push row" id="sheet-undo">
          @can('work', $m)@if ($last?->user_id)
            <form method="post" action="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/undo">@csrf<input
                type="hidden" name="version" value="{{ $last->id }}"><button class="linkish"
                title="{{ $last->field }}, {{ $last->user->name ?? 'plan file' }}, {{ $say::when($last->at, 'short') }}">Undo
                {{ $say->short($last->field, 24) }}</button></form>
          @endif @endcan
          <a class="linkish" href="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/history">
            History</a><a class="linkish" href="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/text">All as
            text</a><a class="linkish"
            href="/m/{{ $m->id }}/mapping/document?load={{ $load->id }}">Specification</a></span>
      </div>
      <div hidden id="words" data-words="{{ json_encode($words) }}"></div>
      <nav class="parts" id="field-tabs" aria-label="Fields shown">
        @foreach ($tell->fieldTabs(count($writable), $ruled, count($open)) as $which => $label)
          <a href="{{ $at }}&show={{ $which }}&rows={{ implode(',', $numbers) }}"
            @if ($show === $which) aria-current="page" @endif>{{ $label }}</a>
        @endforeach
        @if (count($fields) > $say::FIELDS)<span class="row push"><span>{{ $from + 1 }}
              to {{ min(count($fields), $from + $say::FIELDS) }} of {{ count($fields) }}</span>
            @if ($from > 0)
              <a class="linkish"
                href="{{ $at }}&show={{ $show }}&from={{ max(0, $from - $say::FIELDS) }}">before</a>
              @endif @if ($from + $say::FIELDS < count($fields))
                <a class="linkish"
                  href="{{ $at }}&show={{ $show }}&from={{ $from + $say::FIELDS }}">after</a>
              @endif
          </span>
        @endif
      </nav>
      <div class="scroll-x" tabindex="0" role="region" aria-label="Rule sheet">
        <table class="sheet">
          <thead>
            <tr>
              <th>Target field</th>
              <th>Rule</th>
              <th>
                <div class="samples">
                  @foreach (array_keys($sheet->sample) as $number)
                    <span><a data-journey
                        href="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/record/{{ $number }}"
                        title="The row and the record made of it">Row {{ number_format($number) }}</a></span>
                  @endforeach
                </div>
              </th>
              <th class="n">Rows</th>
            </tr>
          </thead>
          @foreach ($lines as $line)
            @include('mapping.line', [
                'told' => null,
                'conflict' => null,
                'tried' =>
                    $checked['stale'] || $checked['check']?->state->value !== 'done'
                        ? null
                        : $checked['check']->result,
            ])
          @endforeach
        </table>
      </div>
      <div id="shelf-part">
        @php($undecided = count(array_filter($columns, fn($c) => !isset($uses[$c->position]) && !isset($decisions[$c->header]))))
        @php($left = count(array_filter($columns, fn($c) => !isset($uses[$c->position]) && isset($decisions[$c->header]))))
        <h2 id="shelf">On the shelf: {{ $say->count($undecided, 'legacy column') }} nobody uses yet</h2>
        <nav class="parts" aria-label="Columns shown">
          @foreach ($tell->columnTabs($undecided, $left, count($uses)) as $which => $label)
            <a href="{{ $at }}&columns={{ $which }}#shelf"
              @if ($columnsShown === $which) aria-current="page" @endif>{{ $label }}</a>
          @endforeach
          @if (count($on) > $say::FIELDS)<span
              class="row push"><span>{{ $onFrom + 1 }} to {{ min(count($on), $onFrom + $say::FIELDS) }}
                of {{ count($on) }}</span>
              @if ($onFrom > 0)
                <a class="linkish"
                  href="{{ $at }}&columns={{ $columnsShown }}&shelf={{ max(0, $onFrom - $say::FIELDS) }}#shelf">before</a>
                @endif @if ($onFrom + $say::FIELDS < count($on))
                  <a class="linkish"
                    href="{{ $at }}&columns={{ $columnsShown }}&shelf={{ $onFrom + $say::FIELDS }}#shelf">after</a>
                @endif
            </span>
          @endif
        </nav>
        <datalist id="open-fields">
          @foreach ($open as $name)
            <option value="{{ $name }}">
          @endforeach
        </datalist>
        <table class="sheet">
          <tbody>
            @forelse (array_slice($on, $onFrom, $say::FIELDS) as $column)
              @php($profile = $load->extract->take?->facts()[$column->position] ?? null)
              <tr>
                <td class="w-1/4"><code>{{ $column->header }}</code></td>
                <td>
                  @if ($profile)
                    filled in {{ number_format($profile['filled']) }} of {{ number_format($load->extract->take->rows) }}
                    rows, {{ $profile['estimated'] ? 'about ' : '' }}{{ number_format($profile['distinct']) }} different
                  @endif
                </td>
                <td>
                  @foreach ($profile['examples'] ?? [] as $example)
                    <x-raw :value="$say->short($example, 24)" />&ensp;
                  @endforeach
                </td>
                <td>
                  @if ($columnsShown === 'used')
                    {{ implode('; ', $uses[$column->position]) }}
                  @elseif (isset($decisions[$column->header]))
                    <form class="row" method="post"
                      action="/m/{{ $m->id }}/mapping/extracts/{{ $load->extract_id }}/columns">@csrf<input
                        type="hidden" name="header" value="{{ $column->header }}"><input type="hidden"
                        name="undo" value="1"><span>Left behind:
                        {{ $decisions[$column->header]->reason }}</span>
                      @can('work', $m)
                        <button class="linkish">Take it up again</button>
                      @endcan
                    </form>
                  @else
                    @can('work', $m)
                      <div x-data="reveal" class="row">
                        @if ($open)
                          <form class="row" x-show="closed" method="post"
                            action="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/map">@csrf<input
                              type="hidden" name="column" value="{{ $column->name }}"><input name="field"
                              list="open-fields" size="16" required placeholder="field"
                              aria-label="Field for {{ $column->header }}" autocomplete="off"><button
                              class="linkish">Map</button></form>
                        @endif
                        <button type="button" class="linkish" x-on:click="toggle" x-bind:aria-expanded="open">Leave
                          behind</button>
                        <form x-show="open" x-cloak class="row" method="post"
                          action="/m/{{ $m->id }}/mapping/extracts/{{ $load->extract_id }}/columns">@csrf<input
                            type="hidden" name="header" value="{{ $column->header }}"><x-was :of="null"
                            :keys="['reason']" /><label for="why-{{ $column->position }}">because</label><input
                            id="why-{{ $column->position }}" name="reason" required data-first><button
                            class="btn small">Leave it behind</button></form>
                      </div>
                    @endcan
                  @endif
                </td>
              </tr>
            @empty
              <tr>
                <td>
                  {{ $tell::NO_COLUMN[$columnsShown] }}
                </td>
              </tr>
            @endforelse
          </tbody>
        </table>
      </div>
      @can('work', $m)
        <details class="mt-5">
          <summary class="linkish">Feed, key, scope and policy</summary>
          <form class="panel mt-2" method="post" action="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}">
            @csrf<x-was :of="$load" :keys="array_keys($load::SETTINGS)" />
            <div class="grid-form">
              <div class="stack"><label for="key">Legacy key (one column, or several in order)</label><select
                  id="key" name="key[]" multiple size="5">
                  @foreach ($columns as $column)
                    @php($isKey = array_intersect([$column->name, $column->header], $load->key_columns) !== [])
                    <option value="{{ $column->name }}" @selected($isKey)>{{ $column->header }}</option>
                  @endforeach
                </select>
              </div>
              <div class="stack"><label for="key_space">Key space, shared by loads that name it</label><input
                  id="key_space" name="key_space" maxlength="12" class="mono"
                  value="{{ old('key_space', $load->keySpace()) }}">
                <label for="key_normalisation">Keys are compared</label><select id="key_normalisation"
                  name="key_normalisation">
                  @foreach ($normalisations as $n)
                    <option value="{{ $n->value }}" @selected($load->key_normalisation === $n)>{{ $n->label() }}</option>
                  @endforeach
                </select>
              </div>
              <div class="stack"><label for="policy">Write policy</label><select id="policy" name="policy">
                  @foreach ($policies as $p)
                    <option value="{{ $p->value }}" @selected($load->policy === $p)>{{ $p->label() }}</option>
                  @endforeach
                </select>
                <label for="gone">Rows delivered no more</label><select id="gone" name="gone">
                  @foreach ($gones as $g)
                    <option value="{{ $g->value }}" title="{{ $g->meaning() }}" @selected($load->gone === $g)>
                      {{ ucfirst($g->value) }}</option>
                  @endforeach
                </select><small class="quiet">{{ $load->gone->meaning() }}</small>
                <label for="others">What others changed in the target</label><select id="others" name="others">
                  @foreach ($others as $o)
                    <option value="{{ $o->value }}" title="{{ $o->meaning() }}" @selected($load->others === $o)>
                      {{ ucfirst($o->value) }}</option>
                  @endforeach
                </select><small class="quiet">{{ $load->others->meaning() }}</small>
              </div>
              <div class="stack"><label for="scope">Only rows where</label>
                <textarea id="scope" name="scope" rows="2">{{ old('scope', $load->scope) }}</textarea>
              </div>
              <div class="stack"><label for="scope_reason">The others are left out because</label><input id="scope_reason"
                  name="scope_reason" value="{{ old('scope_reason', $load->scope_reason) }}"></div>
            </div>
            <p class="quiet mt-3 mb-1">Two records are the same when one of these rules says so; they are tried in the
              order of their places, and one without a place is not used. With none, update only and match only find
              their record by the legacy key, in the key space.</p>
            @foreach ($load->entity->matchRules as $rule)
              @php($place = array_search($rule->name, $load->match_rules ?? [], true))
              <div class="row mb-1"><input type="number" min="1" max="99" class="w-16"
                  name="match_place[{{ $rule->id }}]" value="{{ $place === false ? '' : $place + 1 }}"
                  aria-label="Place of the rule {{ $rule->name }}"> <b>{{ $rule->name }}</b>
                <span class="quiet">{{ $tell->matchRule($rule) }}</span>
              </div>
            @endforeach
            <details class="mt-2">
              <summary>A further match rule of {{ $say->label($page->entity->name) }}</summary>
              <div class="row mt-1 mb-1"><label for="match_name">Name</label><input id="match_name" name="match_name"
                  maxlength="90" placeholder="named after its fields"></div>
              @foreach ([1, 2, 3, 4] as $i)
                <div class="row mb-1"><select name="match_field[]" aria-label="Field compared, {{ $i }}">
                    <option value="">no further field</option>
                    @foreach ($writable as $name)
                      <option>{{ $name }}</option>
                    @endforeach
                  </select>
                  <select name="match_how[]" aria-label="How it is compared, {{ $i }}">
                    @foreach ($normalisers as $n)
                      <option value="{{ $n->value }}">{{ $n->label() }}</option>
                    @endforeach
                  </select>
                </div>
              @endforeach
            </details>
            <p class="mt-3"><button class="btn">Keep these settings</button></p>
          </form>
          <p class="mt-2"><x-mend :$m kind="load" :id="$load->id"
              label="Its name, extract and note, or remove it" /></p>
        </details>
        <h2>Another load into {{ $say->label($page->entity->name) }}</h2>
        @include('mapping.new-load')
      @endcan
      <details class="mt-5">
        <summary class="linkish">{{ count($catalogue) }} functions for rules</summary>
        <table class="sheet mt-2">
          <thead>
            <tr>
              <th>Function</th>
              <th>Meaning</th>
              <th>Example</th>
              <th>Gives</th>
            </tr>
          </thead>
          <tbody>
            @foreach (collect($catalogue)->groupBy('theme') as $theme => $entries)
              <tr>
                <td colspan="4"><b>{{ $theme }}</b></td>
              </tr>
              @foreach ($entries as $e)
                <tr>
                  <td><code>{{ $e->described->name }}({{ $e->described->arguments }})</code></td>
                  <td>{{ $e->described->meaning }}<small>{{ $e->types() }}</small></td>
                  <td><code>{{ $e->described->example }}</code></td>
                  <td><code>{{ $e->described->gives ?? 'none' }}</code></td>
                </tr>
              @endforeach
            @endforeach
          </tbody>
        </table>
        <p class="quiet mt-2">A column stands in a rule by its tidy name, or as <code>row['Exact header']</code>.
          Operators: <code>~</code> joins text; <code>+ - * / %</code> are exact; <code>== != &lt; &gt; &lt;= &gt;= in not
            in contains starts with ends with matches and or not ? :</code></p>
      </details>
    </x-layouts.app>
