<div id="draft" aria-live="polite">
  @if ($draft->problems)
    <table class="sheet mb-2">
      <thead>
        <tr>
          <th class="n">Line</th>
          <th>What is wrong</th>
        </tr>
      </thead>
      <tbody>
        @foreach (array_slice($draft->problems, 0, 50) as $p)
          <tr>
            <td class="n">{{ $p['line'] }}</td>
            <td class="bad">{{ $p['message'] }}</td>
          </tr>
          @endforeach @if (count($draft->problems) > 50)
            <tr>
              <td></td>
              <td>and {{ number_format(count($draft->problems) - 50) }} lines more</td>
            </tr>
          @endif
      </tbody>
    </table>
  @endif
  <table class="sheet">
    <thead>
      <tr>
        <th>Field</th>
        <th>Now</th>
        <th>As in the text</th>
      </tr>
    </thead>
    <tbody>
      @forelse ($draft->changes as $c)
        <tr>
          <td>{{ $c['field'] }}</td>
          <td class="before"><code>{{ $c['from'] }}</code></td>
          <td><code>{{ $c['to'] }}</code></td>
        </tr>
      @empty<tr>
          <td colspan="3">The text says what is kept already.</td>
        </tr>
      @endforelse
    </tbody>
  </table>
</div>
