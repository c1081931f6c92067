<x-layouts.app :page="$page" title="Mapping">
  <div class="head">
    <div>
      <h1>{{ $say->label($page->entity->name) }}</h1>
      <p>Nothing fills this entity yet. A load says which extract does, and how.</p>
    </div>
  </div>
  @can('work', $page->migration)
    @include('mapping.new-load')
  @endcan
</x-layouts.app>
