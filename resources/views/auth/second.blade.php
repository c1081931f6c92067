<x-layouts.bare title="Second factor · Baggage">
  <main class="door">
    <form method="post" action="/login/second">
      @csrf
      <h1 class="brand"><x-brand />Second factor</h1>
      <p class="quiet">The code your device shows now, or one of your recovery codes.</p>
      @if ($errors->any())
        <div class="note bad" role="alert">{{ $errors->first() }}</div>
      @endif
      <div class="stack"><label for="code">Code</label><input id="code" name="code" inputmode="text"
          autocomplete="one-time-code" autocapitalize="none" spellcheck="false" required maxlength="40" autofocus></div>
      <button class="btn main">Go on</button>
      <a class="linkish" href="/login">Begin again</a>
    </form>
  </main>
</x-layouts.bare>
