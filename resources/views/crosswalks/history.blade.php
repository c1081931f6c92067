<x-layouts.app :page="$page" title="History of {{ $crosswalk->name }}">
  @php($here = $page->url('crosswalks') . "/codes/$crosswalk->id/history")
  <div class="head">
    <div>
      <h1>{{ $crosswalk->name }}{{ $old === null ? '' : ", \"$old\"" }}: what the codes said</h1>
      <p>The latest change stands first, of {{ $most }} at most. What came with a plan is written down once it
        is changed.
        Nothing is lost by going back: that too is a change.</p>
    </div>
    <div class="actions">
      @if ($old !== null)
        <a class="btn" href="{{ $here }}">All codes</a>
      @endif
      <a class="btn" href="{{ $page->url('crosswalks') }}#code-{{ $crosswalk->id }}">Back to the crosswalks</a>
    </div>
  </div>
  <table class="sheet">
    <thead>
      <tr>
        <th>When (UTC)</th>
        <th>Who</th>
        <th>Old value</th>
        <th>It became then</th>
        <td></td>
      </tr>
    </thead>
    <tbody>
      @php($newest = [])
      @forelse ($versions as $v)
        @php($now = !isset($newest[$v->old_value]))
        @php($newest[$v->old_value] = true)
        <tr>
          <td class="whitespace-nowrap">{{ $v->at->format('j M Y H:i:s') }}</td>
          <td>{{ $v->user->name ?? 'plan file' }}</td>
          <td><a href="{{ $here }}?old={{ urlencode($v->old_value) }}"><x-raw :value="$v->old_value" /></a></td>
          <td @class(['none' => $v->decision === null])>{{ $v->says() }}</td>
          <td>
            @if ($now)
              <span class="quiet">as it is now</span>
            @else
              @can('repair', $page->migration)
                <form method="post" action="{{ $here }}/{{ $v->id }}">@csrf<button class="linkish">Go
                    back to
                    this</button></form>
              @endcan
            @endif
          </td>
        </tr>
      @empty
        <tr>
          <td colspan="5">No code has been changed since it came.</td>
        </tr>
      @endforelse
    </tbody>
  </table>
</x-layouts.app>
