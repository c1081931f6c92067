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
  <x-table :table="$table" label="Changes" empty="No code has been changed since it came.">
    @foreach ($table->rows() as $v)
      @php($now = in_array($v->id, $newest, true))
      <tr>
        <td class="whitespace-nowrap">{{ $say::when($v->at, 'second') }}</td>
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
    @endforeach
  </x-table>
</x-layouts.app>
