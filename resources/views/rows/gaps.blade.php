<x-layouts.app :page="$page" title="What does not add up">
  <div class="head">
    <div>
      <h1>{{ $page->entity ? $say->label($page->entity->name) : 'All entities' }}: what does not add up</h1>
      <p>
        @if (!$counted?->at)
          Nothing was counted yet.
        @else
          As counted
          {{ $say::when($counted->at, 'counted') }}{{ $counted->isDone() ? '' : '; it is being counted again' }}.
          At most {{ number_format($say::GAPS) }} of each kind are listed.
        @endif
      </p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('reconciliation', $page->entity?->name) }}">Back to the
        proof</a></div>
  </div>
  @if ($compared && $compared->wrong > 0)
    <div class="note">When records were compared last,
      {{ $say->count($compared->wrong, 'value said', 'values said') }} something else than was sent, or had no record
      any
      more. <a class="linkish" href="{{ $page->url('comparison', $page->entity?->name) }}">Records compared</a></div>
  @elseif (!$compared && $page->round)
    <p class="quiet">Records that somebody changed, or took away and put others in their place, are found where <a
        class="linkish" href="{{ $page->url('comparison', $page->entity?->name) }}">records are compared</a>.</p>
  @endif
  @if ($lost->total() + $gone->total() + $foreign->total() === 0)
    <div class="note ok">Every row has its outcome, and the target grew by what was made.</div>
  @endif
  @if ($lost->total() > 0)
    <h2>{{ $say->count($lost->total(), 'row') }} without an outcome</h2>
    <x-table :table="$lost" label="Rows without an outcome">
      @foreach ($lost->rows() as $row)
        <tr>
          <td>{{ $page->all()->get($row->load_id)?->name }}</td>
          <td class="n"><a href="{{ $page->journey($row) }}">{{ number_format($row->row_no) }}</a></td>
        </tr>
      @endforeach
    </x-table>
  @endif
  @if ($gone->total() > 0)
    <h2>{{ $say->count($gone->total(), 'row') }} whose record is no longer there</h2>
    <x-table :table="$gone" label="Rows whose record is gone">
      @foreach ($gone->rows() as $row)
        <tr>
          <td>{{ $say->label($row->entity) }}</td>
          <td>{{ $page->all()->get($row->load_id)?->name }}</td>
          <td class="n"><a href="{{ $page->journey($row) }}">{{ number_format($row->row_no) }}</a></td>
          <td><code>{{ $row->key }}</code></td>
        </tr>
      @endforeach
    </x-table>
  @endif
  @if ($foreign->total() > 0)
    <h2>{{ $say->count($foreign->total(), 'record') }} that no row of this round stands for</h2>
    @foreach ($before as $entity => $n)
      @if ($n > 0)
        <p class="quiet">{{ $say->label($entity) }}: {{ number_format($n) }} of such records were there before the
          round
          began.</p>
      @endif
    @endforeach
    <x-table :table="$foreign" label="Records no row stands for">
      @foreach ($foreign->rows() as $row)
        <tr>
          <td>{{ $say->label($row->entity) }}</td>
          <td><code>{{ $row->key }}</code></td>
        </tr>
      @endforeach
    </x-table>
  @endif
</x-layouts.app>
