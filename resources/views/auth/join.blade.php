<x-layouts.bare title="Set your password · Baggage">
  <main class="door">
    @if ($invitation)
      <form method="post" action="/join/{{ $token }}">
        @csrf
        <input type="email" autocomplete="username" value="{{ $invitation->user->email }}" hidden readonly>
        <h1 class="brand"><x-brand />Baggage</h1>
        <p class="quiet">Set the password of {{ $invitation->user->email }}.</p>
        <x-told />
        <div class="stack"><label for="name">Your name</label><input id="name" name="name"
            value="{{ old('name', $invitation->user->name) }}" autocomplete="name" required maxlength="100"></div>
        <input type="hidden" name="zone" data-zone>
        <x-new-password />
        <button class="btn main">Set it and go in</button>
      </form>
    @else
      <div class="stack">
        <h1 class="brand"><x-brand />Baggage</h1>
        <p role="alert">This link is used up, has expired or was replaced by a newer one. Ask whoever gave it to you
          for
          another.</p>
        <p><a class="btn" href="/login">Log in</a></p>
      </div>
    @endif
  </main>
</x-layouts.bare>
