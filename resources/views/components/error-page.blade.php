@props(['code', 'what'])
<x-layouts.bare title="{{ $code }} · Baggage">
  <header class="band">
    <div class="band-top"><a class="brand" href="/"><x-brand />Baggage</a></div>
  </header>
  <main class="work">
    <h1>{{ $what }}</h1>
    <p class="quiet mt-2">{{ $slot }}</p>
    <p class="mt-3"><a class="btn" href="/">To the migrations</a></p>
  </main>
</x-layouts.bare>
