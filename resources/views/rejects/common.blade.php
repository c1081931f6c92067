@if ($detail['common'])
  <h3 class="mt-3">What they have in common</h3>
  <table class="sheet tight" aria-label="What these rows have in common">
    <thead>
      <tr>
        <th>Column</th>
        <th>Says</th>
        <th class="n">Of these</th>
        <th class="n">Of all</th>
      </tr>
    </thead>
    <tbody>
      @foreach ($detail['common'] as $c)
        <tr>
          <td>{{ $c->header }}</td>
          <td><x-raw :value="$c->value" /></td>
          <td class="n">{{ $say::percent($c->n, $c->of) }}</td>
          <td class="n">{{ $say::percent($c->all, $c->rows) }}</td>
        </tr>
      @endforeach
    </tbody>
  </table>
@endif
