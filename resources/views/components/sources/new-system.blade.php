@props(['base'])
<form class="grid-form mt-2" method="post" action="{{ $base }}">@csrf
  <div class="stack"><label for="code">Short code</label><input id="code" name="code" maxlength="12"
      value="{{ old('code') }}" required></div>
  <div class="stack"><label for="name">Name</label><input id="name" name="name" value="{{ old('name') }}"
      required>
  </div>
  <div class="stack"><label for="notes">Notes</label><input id="notes" name="notes"
      value="{{ old('notes') }}"></div>
  <div><button class="btn">Add the system</button></div>
</form>
