@can('repair', $m)
  <p class="mb-2"><a class="linkish" href="/m/{{ $m->id }}/to-answer">The page of the client's people</a></p>
  <div class="grid grid-cols-[repeat(auto-fit,minmax(24rem,1fr))] gap-6 mb-3">
    <form class="panel" method="post" action="/m/{{ $m->id }}/rejects/files">@csrf<x-round :$page />
      <h2 class="mt-0!">Write a file for the client</h2>
      @if ($page->entity)
        <input type="hidden" name="entity" value="{{ $page->entity->name }}">
      @endif
      <p class="row"><label for="file-of">Rejected rows of</label><select id="file-of" name="of">
          <option value="">{{ $page->entity ? 'all loads of it' : 'all loads' }}</option>
          @foreach ($page->loads() as $load)
            @if ($page->proof($load)->count($say->outcome('rejected')) > 0)
              <option value="{{ $load->id }}">{{ $load->name }}</option>
            @endif
          @endforeach
        </select></p>
      <p class="row mt-2"><label for="file-to">to</label><input id="file-to" name="to_whom" maxlength="190"></p>
      <p class="row mt-2"><button class="btn" name="format" value="xlsx">Write .xlsx</button><button class="btn"
          name="format" value="csv">Write .csv</button></p>
    </form>
    <form class="panel" method="post" action="/m/{{ $m->id }}/rejects/answers" enctype="multipart/form-data">
      @csrf<x-round :$page />
      <h2 class="mt-0!">Take in a file that came back</h2>
      <p class="row"><x-file id="answer-file" name="answer" takes="the .xlsx or .csv that went out, as it came back"
          accept=".xlsx,.csv,.xls,.ods,.txt" /></p>
      <p class="row mt-2"><label for="sent-by">from</label><input id="sent-by" name="sent_by" maxlength="190"><button
          class="btn">Take it in</button></p>
    </form>
  </div>
@endcan
@if ($copies)
  <form class="panel row mb-3" method="post" action="/m/{{ $m->id }}/rejects/annotated">@csrf<x-round
      :$page /><label for="copy-of">A copy of the client's own file</label><select id="copy-of" name="take">
      @foreach ($copies as $take => $name)
        <option value="{{ $take }}">{{ $name }}</option>
      @endforeach
    </select><span>with outcome, new key and message beside each row</span><button class="btn">Make the copy</button>
  </form>
@endif
@if ($answers->total() > 0)
  <h2>What came back</h2>
  <x-table :table="$answers" label="What came back">
    @foreach ($answers->rows() as $answer)
      <tr class="hit">
        <td><a href="/m/{{ $m->id }}/rejects/answers/{{ $answer->id }}">{{ $answer->name }}</a></td>
        <td>{{ $answer->file?->title }}</td>
        <td>{{ $answer->sent_by }}</td>
        <td class="whitespace-nowrap">{{ $say::when($answer->created_at, 'short') }}</td>
        <td @class(['n', 'zero' => ($open[$answer->id] ?? 0) === 0])>{{ number_format($open[$answer->id] ?? 0) }}</td>
        <td>{{ $tell->answerState($answer) }}</td>
      </tr>
    @endforeach
  </x-table>
  <h2>Files that were written</h2>
@endif
<x-table :table="$files" label="Files for the client" empty="No file was written for the client yet.">
  @foreach ($files->rows() as $f)
    <tr class="hit">
      <td><a href="/m/{{ $m->id }}/rejects/files/{{ $f->id }}">{{ $f->title }}</a> <small
          class="quiet">{{ $f->code }}, .{{ $f->format }}</small></td>
      <td class="n">{{ number_format($f->row_count) }}</td>
      <td class="whitespace-nowrap">{{ $say::when($f->created_at, 'short') }}</td>
      <td>{{ $f->user->name ?? 'the command line' }}</td>
      <td>{{ $f->to_whom }}</td>
      <td class="whitespace-nowrap">{{ $f->sentOn() }}</td>
      <td class="n">{{ $f->answers_count }}</td>
      <td>{{ $f->closed_at ? 'closed' : 'open' }}</td>
      <td>
        @if ($f->isWritten())
          <a class="linkish" href="/m/{{ $m->id }}/rejects/files/{{ $f->id }}/fetch"
            aria-label="Fetch: {{ $f->title }}">Fetch</a>
        @endif
      </td>
    </tr>
  @endforeach
</x-table>
