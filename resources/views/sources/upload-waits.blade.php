<x-layouts.app :page="$page" title="Preview">
  <div class="head">
    <div>
      <h1>{{ $kept['name'] }}</h1>
      <p>Nothing is stored yet.</p>
    </div>
  </div>
  <x-looking says="Looking what it holds takes longer than a page waits for. A worker does it now." />
</x-layouts.app>
