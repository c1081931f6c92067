<x-layouts.app :page="$page" title="History of {{ $load->name }}">
  @php($m = $page->migration)
  <div class="head">
    <div>
      <h1>{{ $load->name }}{{ $field ? ", $field" : '' }}: what the rules said</h1>
      <p>The latest change stands first. Nothing is lost by going back: that too is a change.</p>
    </div>
    <div class="actions">
      @if ($field)
        <a class="btn" href="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/history">All fields</a>
      @endif
      <a class="btn" href="{{ $page->url('mapping', $load->entity->name) }}?load={{ $load->id }}">
        Back to the sheet</a>
    </div>
  </div>
  <table class="sheet">
    <thead>
      <tr>
        <th>When (UTC)</th>
        <th>Who</th>
        <th>Field</th>
        <th>It said then</th>
        <th>Note</th>
        <td></td>
      </tr>
    </thead>
    <tbody>
      @php($newest = [])
      @forelse ($versions as $v)
        @php($now = !isset($newest[$v->field]))
        @php($newest[$v->field] = true)
        <tr>
          <td class="whitespace-nowrap">{{ $v->at->format('j M Y H:i:s') }}</td>
          <td>{{ $v->user->name ?? 'plan file' }}</td>
          <td><a
              href="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/history?field={{ $v->field }}">{{ $v->field }}</a>
          </td>
          <td><code>{{ $v->says() }}</code></td>
          <td>{{ $v->note }}</td>
          <td>
            @if ($now)
              <span class="quiet">as it is now</span>
            @else
              @can('work', $m)
                <form method="post"
                  action="/m/{{ $m->id }}/mapping/loads/{{ $load->id }}/history/{{ $v->id }}">
                  @csrf<button class="linkish">Go back to this</button></form>
              @endcan
            @endif
          </td>
        </tr>
      @empty
        <tr>
          <td colspan="6">Nothing has been changed yet.</td>
        </tr>
      @endforelse
    </tbody>
  </table>
</x-layouts.app>
