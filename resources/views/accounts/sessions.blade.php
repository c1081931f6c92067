<x-layouts.house title="Sessions">
  <div class="head">
    <div>
      <h1>Sessions</h1>
      <p>Who is logged in, for how long that may be, and of whom a second factor is asked.</p>
    </div>
  </div>
  <form class="panel" method="post" action="/sessions">@csrf<x-was :of="['rules' => $rules->said()]" :keys="['rules']" />
    <div class="grid-form">
      <div class="stack"><label for="idle">Minutes without a request</label><input id="idle" name="idle"
          inputmode="numeric" required value="{{ old('idle', $rules->idleMinutes) }}"></div>
      <div class="stack"><label for="longest">Hours in all</label><input id="longest" name="longest"
          inputmode="numeric" required value="{{ old('longest', $rules->longestHours) }}"></div>
      <x-confirm />
    </div>
    <fieldset class="row mt-3">
      <legend>A second factor is asked of whoever is, anywhere,</legend>
      @foreach ($kinds as $kind)
        <label class="row"><input type="checkbox" name="second[]" value="{{ $kind }}"
            @checked(in_array($kind, old('idle') === null ? $rules->secondFactor : (array) old('second', []), true))>
          {{ $kind }}</label>
      @endforeach
    </fieldset>
    <p class="quiet">Who has none sets one up before anything else.</p>
    <button class="btn main mt-2">Keep</button>
  </form>
  <h2>Logged in now <small class="quiet">times in {{ $say::zone() }}</small></h2>
  <x-session-table :$sessions :$here label="Sessions" at="/sessions" named />
</x-layouts.house>
