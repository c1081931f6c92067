@if (session('told'))
  <div class="note ok" role="status">{{ session('told') }}</div>
@endif
@if (session('link'))
  <div class="note ok" role="status">The link of {{ session('link')['of'] }}, shown this once. Hand it over by a way you
    trust; it holds for seven days, for one use.
    <code class="raw">{{ session('link')['at'] }}</code>
  </div>
@endif
@if (session('refused'))
  <div class="note bad" role="alert" data-lines data-refused>{{ session('refused') }}</div>
@endif
@if ($errors->any())
  <div class="note bad" role="alert" data-refused>
    @foreach ($errors->all() as $error)
      <div>{{ $error }}</div>
    @endforeach
  </div>
@endif
