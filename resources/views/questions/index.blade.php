<x-layouts.house title="To answer">
  <div class="head">
    <div>
      <h1>{{ $m->name }}: what waits for an answer of yours</h1>
      <p>
        @if ($questions === [] && $files->isEmpty())
          Nothing waits for you at the moment.
        @else
          These rows of yours could not be taken over as they are. Answer here, value by value, or in the file and send
          it back.
          Nothing is changed before somebody has looked at your answers.
        @endif
      </p>
    </div>
    <div class="actions"><a class="btn" href="/m/{{ $m->id }}/rejects">The whole migration</a></div>
  </div>
  @foreach ($files as $file)
    <form class="panel mb-3" method="post" action="/m/{{ $m->id }}/rejects/answers" enctype="multipart/form-data">
      @csrf<input type="hidden" name="round" value="{{ $round->id }}"><input type="hidden" name="sent_by"
        value="{{ auth()->user()->name }}">
      <h2 class="mt-0!">{{ $file->title }}</h2>
      <p class="row">{{ $say->count($file->row_count, 'row') }} <a class="btn"
          href="/m/{{ $m->id }}/rejects/files/{{ $file->id }}/fetch">Fetch the file</a>
        <span class="quiet">{{ $file->answers_count > 0 ? 'It was sent back.' : 'It was not sent back yet.' }}</span>
      </p>
      <div class="row mt-2"><x-file id="back-{{ $file->id }}" name="answer" label="Drop it here, or choose it"
          takes="the file with your corrections" accept=".xlsx,.csv" /><button class="btn">Send it back</button>
      </div>
    </form>
  @endforeach
  @foreach ($questions as $q)
    <form class="panel mb-3" method="post" action="/m/{{ $m->id }}/to-answer">@csrf<input type="hidden"
        name="round" value="{{ $round->id }}"><input type="hidden" name="alike" value="{{ $q->group->id() }}">
      <h2 class="mt-0!">{{ $say->label($q->load->entity->name) }}: {{ $q->asks }}</h2>
      <p class="quiet">{{ $say->count($q->group->own, 'row') }},
        {{ $q->answered }} of {{ $say->count($q->group->kinds, 'value') }} answered.
        @if ($q->task?->until)
          Wanted until {{ $q->task->until }}.
        @endif
        {{ $q->task?->note }}
        <progress max="{{ max(1, $q->group->kinds) }}" value="{{ $q->answered }}" aria-label="Answered"></progress>
      </p>
      @if ($q->choices)
        <datalist id="may-{{ $loop->index }}">
          @foreach ($q->choices as [, $value, $becomes])
            <option value="{{ $value }}">{{ $becomes }}</option>
          @endforeach
        </datalist>
      @endif
      <table class="sheet tight" aria-label="{{ $q->asks }}">
        <thead>
          <tr>
            <th>One of the rows</th>
            <th>{{ $q->header }}, as you have it</th>
            <th class="n">Rows</th>
            <th>It should be</th>
          </tr>
        </thead>
        <tbody>
          @foreach ($q->values as $v)
            <tr>
              <td>
                @foreach ($v->others as $title => $cell)
                  <span class="quiet">{{ $title }}</span> <x-raw :value="$say->short($cell, 40)" />
                @endforeach
              </td>
              <td><x-raw :value="$v->cell" />
                @if ($v->message !== $q->group->message && $q->asks === $q->group->title())
                  <small class="quiet">{{ $v->message }}</small>
                @endif
              </td>
              <td class="n">{{ number_format($v->rows) }}</td>
              <td><input name="answers[{{ $v->id }}]" value="{{ old("answers.$v->id", $v->answered ?? '') }}"
                  maxlength="4000"
                  aria-label="{{ $q->header }} of {{ $v->cell === '' ? 'blank ones' : $v->cell }} should be"
                  @if ($q->choices) list="may-{{ $loop->parent->index }}" autocomplete="off" @endif>
              </td>
            </tr>
          @endforeach
        </tbody>
      </table>
      @if ($q->left > 0)
        <p class="quiet mt-1">{{ $say->count($q->left, 'more value', 'more values') }}: the file has them all.</p>
      @endif
      <p class="mt-2"><button class="btn main">Send these answers</button></p>
    </form>
  @endforeach
</x-layouts.house>
