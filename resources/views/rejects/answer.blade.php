<x-layouts.app :page="$page" title="Answer">
  @php($m = $page->migration)
  @php($at = "/m/{$m->id}/rejects/answers/{$answer->id}")
  @php($is = $answer->state->value)
  <div class="head" id="answer"
    @if ($is === 'waiting') hx-get="{{ $at }}" hx-trigger="load delay:1s" hx-select="main" hx-target="main"
    hx-swap="outerHTML" @endif>
    <div>
      <h1>{{ $answer->name }}</h1>
      <p>
        @if ($is === 'waiting')
          It is being read.
        @elseif ($is === 'refused')
          It could not be taken in.
        @else
          {{ $answer->sent_by ? "From $answer->sent_by, " : 'Taken in ' }}{{ $say::when($answer->created_at, 'short') }}.
          {{ $tell->answerFound($answer) }}
        @endif
      </p>
    </div>
    <div class="actions">
      @if ($answer->file)
        <a class="btn" href="/m/{{ $m->id }}/rejects/files/{{ $answer->file->id }}">The file it answers</a>
      @endif
      <a class="btn" href="{{ $page->url('rejects') }}?show=files">Back to files</a>
    </div>
  </div>
  @if ($is === 'refused')
    <p class="note bad">{{ $answer->told }}</p>
  @endif
  @foreach ($is === 'listed' ? $tell->answerOdd($answer) : [] as $odd)
    <p class="note">{{ $odd }}</p>
  @endforeach
  @if ($is === 'asking')
    <form class="panel" method="post" action="{{ $at }}/columns">@csrf
      <h2>Which columns are these?</h2>
      <p class="quiet">They are called otherwise than in the file that went out. What is said to be none of them is not
        read.</p>
      @foreach ($found['asks'] ?? [] as $i => $of)
        <h3 class="mt-3">{{ $of['sheet'] }}</h3>
        @foreach ($of['unknown'] as $n => $title)
          <p class="row mb-1"><label for="is-{{ $i }}-{{ $n }}"><b
                class="raw">{{ $title }}</b>
              is</label><select id="is-{{ $i }}-{{ $n }}"
              name="is[{{ $i }}][{{ $n }}]">
              <option value="">none of them</option>
              @foreach ($of['missing'] as $missing)
                <option @selected($say->isAlike($title, $missing))>{{ $missing }}</option>
              @endforeach
            </select></p>
        @endforeach
      @endforeach
      @can('repair', $m)
        <p class="mt-3"><button class="btn main">Read it so</button></p>
      @endcan
    </form>
  @endif
  @if ($is === 'listed')
    @if ($counts !== [])
      <table class="sheet mb-3" aria-label="Changes by load">
        <thead>
          <tr>
            <th>Load</th>
            <th class="n">Changed</th>
            <th class="n">In conflict</th>
            <th class="n">By the program</th>
            <th class="n">Taken in</th>
            <th class="n">Let be</th>
            <th><span class="sr-only">Try</span></th>
          </tr>
        </thead>
        <tbody>
          @foreach ($counts as $id => $of)
            <tr class="hit">
              <td><a href="{{ $at }}?load={{ $id }}">{{ $of['name'] }}</a></td>
              @foreach (['open', 'conflict', 'program', 'taken', 'left'] as $part)
                <td @class(['n', 'zero' => $of[$part] === 0])>{{ number_format($of[$part]) }}</td>
              @endforeach
              <td>
                @can('repair', $m)
                  @if ($of['open'] > 0)
                    @php($what = $of['open'] === 1 ? 'Try it' : 'Try all ' . $say->count($of['open'], 'cell'))
                    <form method="post" action="{{ $at }}/try">@csrf<input type="hidden" name="load"
                        value="{{ $id }}"><button class="btn small"
                        aria-label="{{ $what }}: {{ $of['name'] }}">{{ $what }}</button></form>
                  @endif
                @endcan
              </td>
            </tr>
          @endforeach
        </tbody>
      </table>
    @endif
    @if ($remarks)
      <h2>Remarks</h2>
      @foreach ($remarks as $remark)
        @php($of = $extracts[$remark->extract_id] ?? null)
        <p class="mb-1">
          @if ($of)
            <a class="linkish"
              href="/m/{{ $m->id }}/rows/{{ $of->id }}/{{ $remark->row_no }}">{{ $of->name }}, row
              {{ number_format($remark->row_no) }}</a>
          @endif
          {{ $remark->remark }}
        </p>
      @endforeach
    @endif
    @foreach ($changes as $id => $some)
      <form method="post" action="{{ $at }}/try">@csrf<input type="hidden" name="load"
          value="{{ $id }}">
        <h2>{{ $counts[$id]['name'] ?? '' }}</h2>
        <table class="sheet tight" aria-label="Changed cells of {{ $counts[$id]['name'] ?? '' }}">
          <thead>
            <tr>
              <th><span class="sr-only">These</span></th>
              <th class="n">Row</th>
              <th>Column</th>
              <th>Was</th>
              <th>Is in the file</th>
              <th>Says here now</th>
              <th>What it is</th>
            </tr>
          </thead>
          <tbody>
            @foreach ($some as $c)
              @php($header = $headers[$c->take_id][$c->position] ?? '')
              <tr>
                <td>
                  @can('repair', $m)
                    @if ($c->state === 'open')
                      <input type="checkbox" name="changes[]" value="{{ $c->id }}"
                        aria-label="Row {{ $c->row_no }}, {{ $header }}">
                    @endif
                  @endcan
                </td>
                <td class="n"><a
                    href="/m/{{ $m->id }}/rows/{{ $c->load_id }}/{{ $c->row_no }}">{{ number_format($c->row_no) }}</a>
                </td>
                <td class="raw">{{ $header }}</td>
                <td><x-raw :value="$c->was" /></td>
                <td><x-raw :value="$c->becomes" /></td>
                <td>
                  @if ($c->is_now !== $c->was)
                    <x-raw :value="$c->is_now" />
                  @endif
                </td>
                <td>{{ $tell->change($c) }}</td>
              </tr>
            @endforeach
          </tbody>
        </table>
        @if ($some->contains('state', 'open') && auth()->user()->can('repair', $m))
          <p class="row mt-2 mb-3"><button class="btn">Try those ticked</button><button class="btn"
              formaction="{{ $at }}/leave">Let those ticked be</button></p>
        @endif
      </form>
    @endforeach
    <p class="row">
      @if ($next)
        <a class="linkish" href="{{ request()->fullUrlWithQuery(['after' => $next]) }}">The next ones</a>
      @endif
      @if (request('after') || $load)
        <a class="linkish" href="{{ $at }}">All from the first</a>
      @endif
    </p>
  @endif
</x-layouts.app>
