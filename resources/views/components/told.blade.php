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
@if (session('lost'))
  <div class="scroll-x mb-2">
    <table class="sheet" aria-label="Both texts">
      <thead>
        <tr>
          <th>What</th>
          <th>As it stands now</th>
          <th>As you had it</th>
        </tr>
      </thead>
      <tbody>
        @foreach (session('lost') as $text)
          <tr>
            <td>{{ $text['what'] }}</td>
            <td><x-raw :value="$text['theirs']" /></td>
            <td><x-raw :value="$text['mine']" /></td>
          </tr>
        @endforeach
      </tbody>
    </table>
  </div>
@endif
@if ($errors->any())
  <div class="note bad" role="alert" data-refused>
    @foreach ($errors->all() as $error)
      <div>{{ $error }}</div>
    @endforeach
  </div>
@endif
