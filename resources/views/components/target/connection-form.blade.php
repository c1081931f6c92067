@props(['action', 'target'])
@php($id = 't' . ($target?->id ?? 0))
@php($mine = (int) old('of') === (int) $target?->id && $errors->any())
<form class="panel grid-form mt-2" method="post" action="{{ $action }}">@csrf
  <input type="hidden" name="of" value="{{ (int) $target?->id }}">
  @if ($target)
    <x-was :of="$target" :keys="['name', 'host', 'port', 'database', 'username']" />
  @endif
  @foreach (['name' => 'Name', 'host' => 'Host', 'port' => 'Port', 'database' => 'Database', 'username' => 'User'] as $field => $label)
    <div class="stack"><label for="{{ $id }}-{{ $field }}">{{ $label }}</label><input
        id="{{ $id }}-{{ $field }}" name="{{ $field }}" required autocomplete="off"
        value="{{ $mine ? old($field) : $target?->getAttribute($field) ?? ($field === 'port' ? '3306' : '') }}">
      @if ($mine && $errors->has($field))
        <small class="bad">{{ $errors->first($field) }}</small>
      @endif
    </div>
  @endforeach
  <x-confirm :id="$id . '-current'" />
  <div class="stack"><label for="{{ $id }}-password">Password of the database</label><input
      id="{{ $id }}-password" name="password" type="password" autocomplete="new-password"
      placeholder="{{ $target ? 'as it is' : '' }}">
    @if ($target)
      <small class="quiet">Another place or user needs it anew.</small>
    @endif
  </div>
  <div><button class="btn">Save and try it</button></div>
</form>
