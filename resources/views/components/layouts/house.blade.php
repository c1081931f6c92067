@props(['title'])
<x-layouts.bare :title="$title . ' · Baggage'">
  <a class="skip" href="#work">To the work area</a>
  <div id="busy" role="status" hidden><span class="sr-only">It has begun</span></div>
  <header class="band">
    <div class="band-top"><a class="brand" href="/"><x-brand />Baggage</a>
      <nav class="row" aria-label="The installation">
        <a href="/" @if (request()->is('/')) aria-current="page" @endif>Migrations</a>
        @if (auth()->user()->is_administrator)
          <a href="/accounts" @if (request()->is('accounts')) aria-current="page" @endif>Accounts</a>
          <a href="/sessions" @if (request()->is('sessions')) aria-current="page" @endif>Sessions</a>
          <a href="/log" @if (request()->is('log')) aria-current="page" @endif>Log</a>
        @endif
      </nav>
      <div class="who ml-auto"><a href="/account"
          @if (request()->is('account')) aria-current="page" @endif>{{ auth()->user()->name }}</a>
        <form method="post" action="/logout">@csrf<button>Log out</button></form>
      </div>
    </div>
  </header>
  <main class="work" id="work" tabindex="-1">
    <div id="told" role="status"></div>
    <x-told />
    {{ $slot }}
  </main>
</x-layouts.bare>
