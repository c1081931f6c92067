<x-layouts.app :page="$page" title="Who did what">
  <div class="head">
    <div>
      <h1>Who did what</h1>
      <p>In this migration, the newest first. It is written as things are done, and nothing here can change it.</p>
    </div>
    <div class="actions"><a class="btn" href="/m/{{ $page->migration->id }}/people">People</a></div>
  </div>
  <x-log :$entries :$filter :$who :$older :$at />
</x-layouts.app>
