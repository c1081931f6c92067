@props(['sessions', 'here', 'label', 'at', 'named' => false])
<x-table :table="$sessions" :$label>
  @foreach ($sessions->rows() as $session)
    <tr class="hit">
      @if ($named)
        <td>{{ $session->user->name }} <small>{{ $session->user->email }}</small></td>
      @endif
      <td class="whitespace-nowrap">{{ $say::when($session->began_at, 'short') }}</td>
      <td class="whitespace-nowrap">{{ $say::when($session->seen_at, 'short') }}</td>
      <td>{{ $session->ip }}</td>
      <td><small>{{ $session->agent }}</small></td>
      <td class="whitespace-nowrap">
        @if ($session->id === $here)
          this one
        @else
          <form method="post" action="{{ $at }}/{{ $session->id }}">@csrf @method('delete')<button
              class="btn small"
              aria-label="End the session begun {{ $say::when($session->began_at, 'second') }} from {{ $session->ip }}">End
              it</button></form>
        @endif
      </td>
    </tr>
  @endforeach
</x-table>
