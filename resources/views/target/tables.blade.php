<x-layouts.app :page="$page" title="Tables to make">
  @php($here = "/m/{$page->migration->id}/target/tables")
  <div class="head">
    <div>
      <h1>Tables the target does not have</h1>
      <p>
        @if ($going)
          What it has is being looked at.
        @elseif ($missing)
          {{ $say->count(count($missing), 'described entity has', 'described entities have') }} no table in
          {{ $target?->shown('database') }}. These statements would make them; nothing is done before you say so.
        @elseif (!$error)
          Every described entity has its table.
        @endif
      </p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('target') }}">Back</a></div>
  </div>
  @if ($going)
    <x-looking :says="$going" />
  @elseif ($error)
    <div class="note bad" role="alert">{{ $error }}</div>
  @endif
  @if ($missing)
    <form class="panel" action="{{ $here }}">
      <div class="row"><label for="target">In</label><select id="target" name="target">
          @foreach ($targets as $t)
            <option value="{{ $t->id }}" @selected($t->id === $target?->id)>{{ $t->name }}
              ({{ $t->shown('database') }})
            </option>
          @endforeach
        </select>
        <label for="prefix">with the prefix</label><input id="prefix" name="prefix" value="{{ $prefix }}"
          pattern="[a-z][a-z0-9_]*" maxlength="21" size="10">
        @foreach ($missing as $name)
          <label class="row"><input type="checkbox" name="entities[]" value="{{ $name }}"
              @checked(in_array($name, $chosen, true))> {{ $name }}</label>
        @endforeach
        <button class="btn small">
          Show the statements</button>
      </div>
    </form>
    <pre class="panel raw">{{ implode(";\n\n", $statements) }};</pre>
    @can('work', $page->migration)
      <form method="post" action="{{ $here }}">@csrf<input type="hidden" name="target"
          value="{{ $target?->id }}"><input type="hidden" name="prefix" value="{{ $prefix }}">
        @foreach ($chosen as $name)
          <input type="hidden" name="entities[]" value="{{ $name }}">
        @endforeach
        <button class="btn main" @disabled($chosen === [])>Make
          {{ $say->count(count($chosen), 'table') }}</button>
      </form>
    @endcan
  @endif
</x-layouts.app>
