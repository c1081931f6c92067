<form class="panel row" method="post" action="/m/{{ $page->migration->id }}/mapping/loads" data-then="#suggested">
  @csrf<input type="hidden" name="entity" value="{{ $page->entity->name }}">
  <label for="new-extract">Fill it from</label><select id="new-extract" name="extract" required>
    @foreach ($extracts as $e)
      <option value="{{ $e->id }}">{{ $e->source }} {{ $e->name }}</option>
    @endforeach
  </select>
  <label for="new-name">as the load</label><input id="new-name" name="name" required maxlength="100"
    value="{{ old('name') }}"><button class="btn" @disabled($extracts === [])>Add the load</button>
</form>
