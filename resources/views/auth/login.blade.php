<x-layouts.bare title="Log in · Baggage">
  <main class="door">
    <form method="post" action="/login">
      @csrf
      <h1 class="brand"><x-brand />Baggage</h1>
      <p class="quiet">Every legacy row is accounted for.</p>
      @if (session('told'))
        <div class="note" role="status">{{ session('told') }}</div>
      @endif
      @if ($errors->any())
        <div class="note bad" role="alert">{{ $errors->first() }}</div>
      @endif
      <div class="stack"><label for="email">E-mail address</label><input id="email" name="email"
          type="email" value="{{ old('email') }}" autocomplete="username" required autofocus></div>
      <div class="stack"><label for="password">Password</label><input id="password" name="password" type="password"
          autocomplete="current-password" required></div>
      <button class="btn main">Log in</button>
    </form>
  </main>
</x-layouts.bare>
