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
  <x-table :table="$table" label="Changes" empty="Nothing has been changed yet.">
    @foreach ($table->rows() as $v)
      @php($now = in_array($v->id, $newest, true))
      <tr>
        <td class="whitespace-nowrap">{{ $say::when($v->at, 'second') }}</td>
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
    @endforeach
  </x-table>
</x-layouts.app>
