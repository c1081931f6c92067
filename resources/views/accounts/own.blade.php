<x-layouts.house title="Your account">
  <div class="head">
    <div>
      <h1>{{ $user->name }}</h1>
      <p>{{ $user->email }}{{ $user->is_administrator ? ', administrator of the installation' : '' }}</p>
    </div>
  </div>
  <form class="panel row" method="post" action="/account">@csrf
    <label for="name">Name</label><input id="name" name="name" value="{{ old('name', $user->name) }}" required
      maxlength="100"><button class="btn">Keep</button>
  </form>
  <h2>Password</h2>
  <form class="panel grid-form from-top" method="post" action="/account/password">@csrf
    <input type="email" autocomplete="username" value="{{ $user->email }}" hidden readonly>
    <div class="stack"><label for="current">Current password</label><input id="current" name="current"
        type="password" autocomplete="current-password" required></div>
    <x-new-password />
    <div class="self-center"><button class="btn">Change it</button></div>
  </form>
  <h2>Logged in elsewhere</h2>
  <form class="panel row" method="post" action="/account/others">@csrf
    <input type="email" autocomplete="username" value="{{ $user->email }}" hidden readonly>
    <label for="current-2">Current password</label><input id="current-2" name="current" type="password"
      autocomplete="current-password" required><button class="btn">End every other session of mine</button>
  </form>
</x-layouts.house>
