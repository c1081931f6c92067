@props(['action', 'id', 'connection' => null, 'label'])
<form class="panel grid-form mt-2" method="post" action="{{ $action }}">
  @csrf
  <x-was :of="$connection" :keys="['driver', 'host', 'port', 'database', 'username', 'notes']" />
  <div class="stack"><label for="{{ $id }}-name">{{ $label }}</label><input id="{{ $id }}-name"
      name="name" maxlength="60" required value="{{ $connection?->name }}" @readonly($connection !== null)></div>
  <div class="stack"><label for="{{ $id }}-driver">Kind</label><select id="{{ $id }}-driver"
      name="driver">
      @foreach ($say->drivers() as $driver)
        <option value="{{ $driver->value }}" @selected($connection?->driver === $driver)>{{ $driver->label() }}</option>
      @endforeach
    </select></div>
  <div class="stack"><label for="{{ $id }}-host">Host, or address of a service</label><input
      id="{{ $id }}-host" name="host" value="{{ $connection?->host }}"></div>
  <div class="stack"><label for="{{ $id }}-port">Port</label><input id="{{ $id }}-port"
      name="port" inputmode="numeric" placeholder="as usual" value="{{ $connection?->port }}"></div>
  <div class="stack"><label for="{{ $id }}-database">Database, or ODBC source</label><input
      id="{{ $id }}-database" name="database" value="{{ $connection?->database }}"></div>
  <div class="stack"><label for="{{ $id }}-username">User</label><input id="{{ $id }}-username"
      name="username" autocomplete="off" value="{{ $connection?->username }}"></div>
  <x-confirm :id="$id . '-current'" />
  <div class="stack"><label for="{{ $id }}-password">Password of it, or header of a service</label><input
      id="{{ $id }}-password" name="password" type="password" autocomplete="new-password"
      title="for a service: Name: value" placeholder="{{ $connection ? 'as it is' : '' }}"></div>
  <div class="stack"><label for="{{ $id }}-notes">Notes</label><input id="{{ $id }}-notes"
      name="notes" value="{{ $connection?->notes }}"></div>
  <div><button class="btn">Save and try it</button></div>
</form>
