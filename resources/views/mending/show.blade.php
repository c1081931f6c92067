<x-layouts.app :page="$page" :title="ucfirst($thing->label())">
  @php($m = $page->migration)
  @php($at = "/m/{$m->id}/mend/{$kind->value}/$id")
  @php($fields = $thing->fields())
  @php($shown = array_map(fn($f) => $f['value'], array_filter($fields, fn($f) => !isset($f['secret']))))
  @php($holds = $thing->holds())
  <div class="head">
    <div>
      <h1>{{ ucfirst($thing->label()) }}</h1>
      <p>Change what it is called, or remove it; what hangs on it is said first.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $thing->after() }}">Back</a></div>
  </div>
  <x-works :works="$works" :m="$m" />
  @if ($fields)
    <form class="panel grid gap-2" method="post" action="{{ $at }}">@csrf<x-was :of="$shown"
        :keys="array_keys($shown)" />
      @foreach ($fields as $name => $field)
        <div class="stack"><label for="mend-{{ $name }}">{{ $field['label'] }}</label>
          @if (isset($field['choices']))
            <select id="mend-{{ $name }}" name="{{ $name }}">
              @foreach ($field['choices'] as $value => $label)
                <option value="{{ $value }}" @selected((string) $value === old($name, $field['value']))>{{ $label }}</option>
              @endforeach
            </select>
          @else
            <input id="mend-{{ $name }}" name="{{ $name }}"
              @if (isset($field['secret'])) type="password" autocomplete="new-password" @else size="60" @endif
              value="{{ old($name, $field['value']) }}" maxlength="1000">
          @endif
        </div>
      @endforeach
      @if ($kind->isGrave() && $kind->value !== 'round')
        <x-confirm id="change-current" />
      @endif
      <p><button class="btn main">Keep</button></p>
    </form>
  @endif
  @can('delete', $m)
    <div class="panel">
      <h2>Remove {{ $thing->label() }}</h2>
      @foreach ($thing->hangs() as $line)
        <p>{{ $line }}</p>
      @endforeach
      @foreach ($holds as $why)
        <p class="bad">{{ $why }}</p>
      @endforeach
      @if ($holds === [])
        <form class="row mt-2" method="post" action="{{ $at }}">@csrf @method('DELETE')
          @if ($kind->isGrave())
            <x-confirm id="remove-current" />
          @endif
          <button class="btn">Remove {{ $thing->label() }}</button> <span class="quiet">This cannot be taken
            back.</span>
        </form>
      @endif
    </div>
  @endcan
</x-layouts.app>
