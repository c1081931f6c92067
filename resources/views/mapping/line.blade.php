@php($f = $line->field)
@php($url = "/m/{$page->migration->id}/mapping/loads/{$line->load->id}/fields/{$f->name}")
@php($may = auth()->user()->can('work', $page->migration))
<tbody id="rule-{{ $f->name }}">
  <tr>
    <td class="field-name">
      <b>{{ $f->name }}</b><small>{{ $f->describe() }}{{ $line->isUnique() ? ', unique' : '' }}</small>
      @if ($line->conditions())
        <small title="What the target checks">{{ implode('; ', $line->conditions()) }}</small>
      @endif
    </td>
    <td class="w-2/5">
      <form x-data="reveal" hx-put="{{ $url }}" hx-trigger="submit, keep"
        hx-target="#rule-{{ $f->name }}" hx-swap="outerHTML" method="post" action="{{ $url }}">
        @csrf @method('put')
        <input type="hidden" name="version" value="{{ $line->version() }}"><input type="hidden" name="rows"
          value="{{ implode(',', array_keys($sheet->sample)) }}">
        <div class="flex items-start gap-2">
          <div class="rule-box" role="combobox" aria-expanded="false" aria-haspopup="listbox"
            aria-label="Rule of {{ $f->name }}, with completions">
            <textarea class="rule" name="expression" rows="1" spellcheck="false" autocapitalize="off"
              aria-autocomplete="list" aria-label="Rule of {{ $f->name }}"
              placeholder="{{ $line->rule?->empty_reason ? 'left empty: ' . $line->rule->empty_reason : 'Write a rule' }}"
              @readonly(!$may) hx-post="{{ $url }}/preview" hx-params="not _method"
              hx-trigger="input changed delay:120ms" hx-target="#samples-{{ $f->name }}" hx-swap="outerHTML"
              hx-sync="this:replace"
              @if ($line->error) aria-invalid="true" aria-describedby="told-{{ $f->name }}" @endif>{{ $line->expression }}</textarea>
          </div>
          @if ($may)
            <button type="button" class="linkish text-xs! mt-1 whitespace-nowrap" x-on:click="toggle"
              x-bind:aria-expanded="open"
              aria-label="{{ $line->noteLabel() }}">{{ $line->isOpen() ? 'Leave empty' : 'Note' }}</button>
          @endif
        </div>
        @foreach ($page->codesOf($line) as $code)
          @if ($code->isMissing())
            <small class="wait">There is no code crosswalk {{ $code->name }} yet.
              @if ($may)
                <button type="button" class="linkish text-xs!" hx-post="{{ $url }}/crosswalk"
                  hx-include="closest form" hx-target="#rule-{{ $f->name }}" hx-swap="outerHTML" name="crosswalk"
                  value="{{ $code->name }}">Make it with
                  {{ $say->count($code->unmapped, 'old value') }}</button>
              @endif
            </small>
          @elseif (!$code->isDone())
            <small class="wait"><a class="linkish text-xs!"
                href="{{ $page->url('crosswalks') }}?code={{ $code->id }}">{{ $code->name }}:
                {{ $tell->openCodes($code) }}</a></small>
          @endif
        @endforeach
        @if ($line->rule?->note)
          <small>{{ $line->rule->note }}</small>
        @endif
        @if ($told)
          <small class="good" role="status">{{ $told }}</small>
        @endif
        @if ($conflict)
          <div class="note bad mt-1" role="alert">{{ $conflict->getMessage() }} It says now
            <code>{{ $conflict->now?->expression ?? 'nothing' }}</code>. Nothing of yours was kept: change it here and
            press Enter to put yours in its place, or load the page for theirs.
          </div>
        @endif
        <div x-show="open" x-cloak class="row mt-1">
          @if (trim($line->expression) === '')
            <input name="empty_reason" value="{{ $line->rule?->empty_reason }}" placeholder="why it stays empty"
            aria-label="Why {{ $f->name }} stays empty" data-first>@else<input name="note"
              value="{{ $line->rule?->note }}" placeholder="note" aria-label="Note on {{ $f->name }}" data-first>
          @endif
          <button class="btn small">
            Keep</button>
        </div>
      </form>
    </td>
    @include('mapping.samples')
    <td class="n whitespace-nowrap">
      @if (isset($tried) && trim($line->expression) !== '')@php($fail = $tried['failures'][$f->name] ?? 0)
        <span title="in the check of all rows">{{ number_format($tried['reached'] - $fail) }} pass</span>
        @if ($fail > 0)
          <small><a class="bad"
              href="{{ $page->check($line->load->id, $tried['first'][$f->name]) }}">{{ number_format($fail) }}
              fail</a></small>
        @endif
      @endif
      @if ($line->rejected)
        <small><a class="bad" href="/m/{{ $page->migration->id }}/rejects/{{ $line->load->entity->name }}"
            title="in the latest round">{{ number_format($line->rejected) }} rejected</a></small>
      @endif
    </td>
  </tr>
</tbody>
