<x-layouts.app :page="$page" title="Target">
  <div class="head">
    <div>
      <h1>
        {{ $page->entity ? $say->label($page->entity->name) : 'The new application: ' . $page->migration->target_name }}
      </h1>
      <p>
        @if ($target)
          Read from the database
          <code>{{ $target->shown('database') }}</code> at {{ $target->shown('host') }}:{{ $target->shown('port') }},
          connection "{{ $target->name }}".
          {{ $tell->targetCounted($counted, $page->entity?->name) }}
        @endif
      </p>
    </div>
    @if ($target && !$counted?->isGoing)
      <form method="post" action="/m/{{ $page->migration->id }}/target/count">@csrf<x-round :$page /><button
          class="btn">Count again</button></form>
    @endif
    @can('work', $page->migration)
      <form class="actions" method="post" action="/m/{{ $page->migration->id }}/target/read">@csrf<a class="btn"
          href="{{ $page->url('connections') }}">Connections</a><a class="btn"
          href="/m/{{ $page->migration->id }}/target/tables">Make missing tables</a><button
          class="btn {{ $schema->entities ? '' : 'main' }}">Read the schema
          {{ $schema->entities ? 'again' : '' }}</button>
      </form>
    @endcan
  </div>
  @if ($counted?->error)
    <div class="note bad" role="alert">{{ $counted->error }}</div>
  @endif
  @if ($page->entity)
    <x-table :table="$fields" label="Fields of {{ $described->label() }}">
      @foreach ($fields->rows() as $field)
        <tr>
          <td><b>{{ $field->name }}</b></td>
          <td>{{ $field->type->label() }}</td>
          <td>{{ $field->assigned ? 'given by the target' : ($field->required ? 'required' : '') }}</td>
          <td>{{ $field->refers }}</td>
          <td>
            {{ $described->uniqueWords($field->name) }}
          </td>
          <td>
            @if (isset($field->type->toArray()['values']))
              <code>{{ implode(', ', $field->type->toArray()['values']) }}</code>
            @endif
            @foreach ($described->conditionsOn($field->name) as $condition)
              <small>{{ $condition->wordsBeside($field->name) }}</small>
              @endforeach{{ $field->default === null ? '' : "default $field->default" }}@if ($field->note)
                <small>{{ $field->note }}</small>
              @endif
          </td>
        </tr>
      @endforeach
    </x-table>
    @php($matching = $loads->filter(fn($l) => $l->matches()->isNotEmpty()))
    @foreach ($matching as $l)
      <p class="quiet mt-2">{{ $l->name }} compares with what is in it by
        {{ $l->matches()->map(fn($r) => $tell->matchRule($r))->implode(', then by ') }}.
      </p>
    @endforeach
    <div hx-get="{{ $page->url('target', $page->entity->name) }}?records=1" hx-trigger="load">
      <noscript><a class="linkish" href="{{ $page->url('target', $page->entity->name) }}?records=1">First records in
          it</a></noscript>
    </div>
  @else
    <x-table :table="$entities" label="Entities" empty="Nothing is known of the target yet. Read its schema.">
      @foreach ($entities->rows() as $entity)
        @php($loads = $page->all()->where('entity', $entity->name))
        <tr class="hit">
          <td><a href="{{ $page->url('target', $entity->name) }}">{{ $entity->label() }}</a></td>
          <td class="n">
            {{ $tell->records($counted->records ?? [], $entity->name) }}
          </td>
          <td class="n">
            {{ isset($before[$entity->name]) ? number_format($before[$entity->name]) : '' }}
          </td>
          <td class="n">{{ count($entity->fields) }}</td>
          <td class="n">{{ count(array_filter($entity->fields, fn($f) => $f->required)) }}</td>
          <td>
            {{ implode(', ', array_map(fn($f) => $f->name === $f->refers ? $f->name : "$f->refers ($f->name)", $entity->references())) }}
          </td>
          <td>{{ implode('; ', array_map(fn($u) => implode(' with ', $u), $entity->uniques)) }}</td>
          <td>
            @if ($loads->isEmpty())
              <a class="linkish" href="{{ $page->url('mapping', $entity->name) }}">Map
                it</a>@else{{ $loads->pluck('name')->implode(', ') }}
            @endif
          </td>
        </tr>
      @endforeach
    </x-table>
    @can('work', $page->migration)
      <details class="mt-5" @if ($errors->any()) open @endif>
        <summary class="linkish">Describe it from something else: a file, another database, an extract</summary>
        <p class="quiet mt-2 mb-2">What a description says differently is listed first, with the rules that touches; it
          counts once it is taken over.</p>
        <form class="panel row" method="post" action="/m/{{ $page->migration->id }}/target/describe"
          enctype="multipart/form-data">@csrf<input type="hidden" name="from" value="file"><x-file id="t-file"
            name="file" takes="JSON Schema, OpenAPI 3 (.json, .yaml), SQLite, or a sheet" /><label
            class="row"><input type="checkbox" name="whole" value="1"> it is the whole target: other entities
            go</label><button class="btn small">Compare</button><small class="quiet">A sheet has the columns
            {{ implode(', ', $say::DESCRIPTION) }}.</small></form>
        <form class="panel row" method="post" action="/m/{{ $page->migration->id }}/target/describe">@csrf<input
            type="hidden" name="from" value="pgsql"><label for="t-host">PostgreSQL at</label><input id="t-host"
            name="host" required size="14"><label for="t-port">port</label><input id="t-port" name="port"
            value="5432" size="5"><label for="t-database">database</label><input id="t-database" name="database"
            required size="12"><label for="t-user">user</label><input id="t-user" name="username"
            size="10"><label for="t-password">password</label><input id="t-password" name="password" type="password"
            autocomplete="off" size="10"><label class="row"><input type="checkbox" name="whole" value="1"
              checked> it is the whole target: other entities go</label><button class="btn small">Compare</button></form>
        @if ($page->overview->extracts)
          <form class="panel row" method="post" action="/m/{{ $page->migration->id }}/target/describe">@csrf<input
              type="hidden" name="from" value="extract"><label for="t-extract">The shape of</label><select
              id="t-extract" name="extract">
              @foreach ($page->overview->extracts as $e)
                <option value="{{ $e->id }}">{{ $e->source }} {{ $e->name }}</option>
              @endforeach
            </select><label for="t-name">as the entity</label><input id="t-name" name="name" required
              pattern="[a-z][a-z0-9_]*"><button class="btn small">Compare</button></form>
        @endif
    </details>@endcan
  @endif
</x-layouts.app>
