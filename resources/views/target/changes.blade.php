<x-layouts.app :page="$page" title="What the description changes">
  @php($open = $list->open())
  <div class="head">
    <div>
      <h1>What {{ $list->file_name }} says differently</h1>
      <p>{{ $say->count(count($list->changes), 'change') }} against what is known of the target. Rules that
        stand on changed or removed fields are named; they stay as they are.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('target') }}">Back</a></div>
  </div>
  <x-table :table="$table" label="Changes" empty="It says what is known already.">
    @foreach ($table->rows() as $c)
      <tr>
        <td>{{ $c->where }}</td>
        <td @class([
            'bad' => $c->part === 'removed',
            'good' => $c->part === 'added',
        ])>{{ $c->part }}</td>
        <td class="before">{{ $c->from }}</td>
        <td>{{ $c->to }}</td>
        <td>{{ implode('; ', array_slice($c->data['rules'] ?? [], 0, 8)) }}</td>
      </tr>
    @endforeach
  </x-table>
  @if ($open)
    @can('work', $page->migration)
      <form method="post" action="/m/{{ $page->migration->id }}/changes/{{ $list->id }}" class="mt-3">@csrf<button
          class="btn main">Take the description over: {{ $say->count(count($open), 'change') }}</button></form>
    @endcan
  @endif
</x-layouts.app>
