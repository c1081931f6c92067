<x-layouts.house title="Your account">
  <div class="head">
    <div>
      <h1>{{ $user->name }}</h1>
      <p>{{ $user->email }}{{ $user->is_administrator ? ', administrator of the installation' : '' }}</p>
    </div>
    <div class="actions"><a class="btn" href="/account/second">Second factor:
        {{ $user->hasSecondFactor() ? 'set up' : 'none' }}</a></div>
  </div>
  <form class="panel grid-form" method="post" action="/account">@csrf
    <div class="stack"><label for="name">Name</label><input id="name" name="name"
        value="{{ old('name', $user->name) }}" required maxlength="100"></div>
    <div class="stack"><label for="zone">Times are shown in the zone</label><select id="zone" name="zone">
        @foreach ($zones as $zone)
          <option @selected(old('zone', $user->zone) === $zone)>{{ $zone }}</option>
        @endforeach
      </select></div>
    <div><button class="btn">Keep</button></div>
  </form>
  <h2>Password</h2>
  <form class="panel grid-form from-top" method="post" action="/account/password">@csrf
    <input type="email" autocomplete="username" value="{{ $user->email }}" hidden readonly>
    <div class="stack"><label for="current">Current password</label><input id="current" name="current"
        type="password" autocomplete="current-password" required></div>
    <x-new-password />
    <div class="self-center"><button class="btn">Change it</button></div>
  </form>
  <h2>Where you are logged in <small class="quiet">times in {{ $say::zone() }}</small></h2>
  @if ($sessions->total() > 1)
    <x-confirm-first before="Ending one" />
  @endif
  <x-session-table :$sessions :$here label="Your sessions" at="/account/sessions" />
  @if ($sessions->total() > 1)
    <form class="mt-2" method="post" action="/account/others">@csrf<button class="btn">End all but this</button>
    </form>
  @endif
</x-layouts.house>
