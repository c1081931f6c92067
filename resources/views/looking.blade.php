<x-layouts.bare title="A worker looks · Baggage">
  <header class="band">
    <div class="band-top"><a class="brand" href="/"><x-brand />Baggage</a></div>
  </header>
  <main class="work">
    <h1>A worker looks at it</h1>
    <form method="post" action="{{ $to }}" data-look-again>
      @csrf
      @foreach ($fields as $name => $value)
        <input type="hidden" name="{{ $name }}" value="{{ $value }}">
      @endforeach
      <p class="quiet mt-2" role="status">{{ $says }} What was asked for goes on by
        itself then.</p>
      <p class="mt-3"><button class="btn">Go on</button> <a class="btn"
          href="{{ $fields['back'] ?? '/' }}">Back</a></p>
    </form>
  </main>
</x-layouts.bare>
