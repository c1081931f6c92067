<x-layouts.app :page="$page" title="Reconciliation">
  <div class="head">
    <div>
      <h1>Reconciliation</h1>
      <p>There are no figures before the first round. <a class="linkish" href="{{ $page->url('runs') }}">Begin one at
          Runs.</a></p>
    </div>
  </div>
</x-layouts.app>
