<x-table :table="$repairs" label="Repairs" empty="Nothing was repaired yet.">
  @foreach ($repairs->rows() as $r)
    <tr>
      <td class="whitespace-nowrap">{{ $say::when($r->created_at, 'short') }}</td>
      <td>{{ $r->user->name ?? 'the command line' }}</td>
      <td>{{ $r->title }}</td>
      <td>{{ $r->extract?->name }}</td>
      <td class="raw">{{ $r->about }}</td>
      <td>
        @if ($r->was !== null)
          <x-raw :value="$say->short($r->was, 60)" />
        @endif
      </td>
      <td>
        @if ($r->becomes !== null)
          <x-raw :value="$say->short($r->becomes, 60)" />
        @endif
      </td>
      <td>{{ $r->reason }}</td>
      <td class="n">{{ number_format($r->rows) }}</td>
      <td class="n">
        @forelse ($r->freed ?? [] as $pass => $n)
          {{ number_format($n) }} <small class="quiet">{{ $passes[$pass] ?? '' }}</small>
        @empty
          0
        @endforelse
      </td>
      <td>
        @if ($r->undone_at)
          <small class="quiet">Taken back by {{ $r->undoneBy->name ?? 'somebody who left' }},
            {{ $say::when($r->undone_at, 'short') }}. {{ $r->undone_told }}</small>
        @else
          @can('repair', $m)
            <form method="post" action="/m/{{ $m->id }}/rejects/repairs/{{ $r->id }}/undo">@csrf<button
                class="btn small" aria-label="Take back: {{ $r->title }}">Take back</button></form>
          @endcan
        @endif
      </td>
    </tr>
  @endforeach
</x-table>
