<x-layouts.app :page="$page" title="Rejects">
  <div class="head">
    <div>
      <h1>Rejects</h1>
      <p>Nothing has been loaded yet. <a class="linkish" href="{{ $page->url('runs') }}">Begin a round at Runs.</a></p>
    </div>
  </div>
</x-layouts.app>
