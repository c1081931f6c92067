<x-layouts.app :page="$page" title="Files">
  @php($at = $page->url('sources'))
  <div class="head">
    <div>
      <h1>Files on the disk</h1>
      <p>Uploads that wait, and what takes were read from. Rows that were read stay when their file goes; it cannot be
        read again then.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $at }}">All sources</a></div>
  </div>
  <h2>Waiting to be frozen</h2>
  <x-table :table="$waiting" label="Uploads" empty="None waits. An upload nobody freezes goes after seven days.">
    @foreach ($waiting->rows() as $file)
      <tr class="hit">
        <td><a class="linkish" href="{{ $at }}/upload/{{ $file['id'] }}">{{ $file['name'] }}</a></td>
        <td><code>{{ $file['source'] }}</code></td>
        <td class="n">{{ number_format($file['bytes']) }}</td>
        <td class="whitespace-nowrap">{{ $say::when($file['since'], 'short') }}</td>
        <td>
          <form method="post" action="{{ $at }}/upload/{{ $file['id'] }}">@csrf @method('delete')<button
              class="btn small" aria-label="Remove the upload {{ $file['name'] }}">Remove</button></form>
        </td>
      </tr>
    @endforeach
  </x-table>
  <h2>Read</h2>
  <x-table :table="$taken" label="Files of takes" empty="No file was read yet.">
    @foreach ($taken->rows() as $file)
      <tr class="hit">
        <td>{{ $file['name'] }}</td>
        <td>{{ $file['of'] }}</td>
        <td class="n">{{ $file['bytes'] === null ? '' : number_format($file['bytes']) }}</td>
        <td class="whitespace-nowrap">{{ $say::when($file['at'], 'short') }}</td>
        <td>
          @if ($file['bytes'] === null)
            <span class="quiet">not there any more</span>
          @elseif ($file['mayGo'] && auth()->user()->can('delete', $page->migration))
            <form method="post" action="{{ $at }}/takes/{{ $file['take'] }}/file">@csrf
              @method('delete')<button class="btn small" aria-label="Remove the file {{ $file['name'] }}">Remove the
                file</button></form>
          @endif
        </td>
      </tr>
    @endforeach
  </x-table>
</x-layouts.app>
