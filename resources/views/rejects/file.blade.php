<x-layouts.app :page="$page" title="File for the client">
  @php($m = $page->migration)
  @php($going = $work?->isGoing() ?? false)
  @php($at = "/m/{$m->id}/rejects/files/{$file->id}")
  <div id="client-file"
    @if ($going) hx-get="{{ $at }}" hx-select="#client-file" hx-swap="outerHTML"
    hx-trigger="every 1s" @endif>
    <div class="head">
      <div>
        <h1>{{ $file->title }}</h1>
        <p>{{ $say->count($file->row_count, 'row') }} of {{ implode(', ', $names) }} as
          {{ $file->row_count === 1 ? 'it was' : 'they were' }} on
          {{ $say::when($file->created_at, 'short') }}, with the code <b class="raw">{{ $file->code }}</b>.
          {{ $file->closed_at ? 'It is closed: no answer is waited for.' : '' }}</p>
      </div>
      <div class="actions">
        @if ($file->isWritten())
          <a class="btn main" href="{{ $at }}/fetch">Fetch the .{{ $file->format }}</a>
        @endif
        <a class="btn" href="{{ $page->url('rejects') }}?show=files">Back to files</a>
      </div>
    </div>
    @if ($going)
      <p class="row" role="status">It is being written. <progress max="{{ max(1, $work->total) }}"
          value="{{ $work->done }}" aria-label="Rows written"></progress> {{ number_format($work->done) }} of
        {{ number_format($work->total) }}</p>
    @elseif ($work?->state->value === 'refused')
      <p class="note bad">{{ $work->told }}</p>
    @endif
  </div>
  @foreach ($others as $id => [$title, $n])
    <p class="note">{{ $say->count($n, 'row of it is', 'rows of it are') }} in another open file too: <a
        href="/m/{{ $m->id }}/rejects/files/{{ $id }}">{{ $title }}</a>. Two answers to one
      row may
      contradict
      each other.</p>
  @endforeach
  @can('repair', $m)
    @if (!$file->closed_at)
      <form class="panel row" method="post" action="{{ $at }}">@csrf<label for="file-to">It went
          to</label><input id="file-to" name="to_whom" maxlength="190" value="{{ $file->to_whom }}"><label
          for="file-on">on</label><input id="file-on" name="sent_on" type="date"
          value="{{ $file->sentOn() }}"><button class="btn">Keep</button><button class="btn" name="close"
          value="1" title="Its rows may go into other files; an answer is taken in all the same">Close
          it</button></form>
    @endif
  @endcan
  <h2>What came back</h2>
  @forelse ($answers as $answer)
    <p><a class="linkish" href="/m/{{ $m->id }}/rejects/answers/{{ $answer->id }}">{{ $answer->name }}</a>
      {{ $answer->sent_by ? "from $answer->sent_by," : '' }} {{ $say::when($answer->created_at, 'short') }},
      {{ $tell->answerState($answer) }}</p>
  @empty
    <p class="quiet">Nothing yet.</p>
  @endforelse
</x-layouts.app>
