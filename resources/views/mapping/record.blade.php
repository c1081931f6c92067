@php($drawer = request()->hasHeader('HX-Request'))
<div class="head">
  <div>
    <h1 tabindex="-1">Row {{ number_format($row) }} and the record made of it</h1>
    <p>{{ $load->name }}. @if ($journey === null)
        The load cannot run as it is.
      @elseif ($journey->outcome?->value === 'excluded')
        The row is outside the scope: {{ $journey->cause?->message }}.
      @elseif ($journey->cause)
        It would be rejected:
        {{ lcfirst($journey->cause->message) }}{{ $journey->cause->field ? ', ' . $journey->cause->field : '' }}.
      @else
        This is what would be sent.
      @endif
    </p>
  </div>
  @if ($drawer)
    <div class="actions"><a class="btn small"
        href="/m/{{ $page->migration->id }}/mapping/loads/{{ $load->id }}/record/{{ $row }}">Whole
        page</a><button type="button" class="btn small" data-close-drawer title="Close ( Esc )">Close</button></div>
  @endif
</div>
@if ($problem)
  <div class="note bad">{{ $problem }}</div>
@endif
<p class="row mb-2">
  @if ($row > 1)
    <a class="btn small" data-journey
      href="/m/{{ $page->migration->id }}/mapping/loads/{{ $load->id }}/record/{{ $row - 1 }}">Row before</a>
    @endif @if ($row < $rows)
      <a class="btn small" data-journey
        href="/m/{{ $page->migration->id }}/mapping/loads/{{ $load->id }}/record/{{ $row + 1 }}">Row
        after</a>
    @endif
</p>
<div class="two">
  <table class="sheet">
    <thead>
      <tr>
        <th>Column</th>
        <th>As read{{ $corrected ? ', with its corrections' : '' }}</th>
      </tr>
    </thead>
    <tbody>
      @foreach ($columns as $i => $column)
        <tr>
          <td>{{ $column->header }}</td>
          <td><x-raw :value="$cells[$i] ?? null" /></td>
        </tr>
      @endforeach
    </tbody>
  </table>
  <table class="sheet">
    <thead>
      <tr>
        <th>{{ $say->label($load->entity->name) }}</th>
        <th>Sent</th>
      </tr>
    </thead>
    <tbody>
      @foreach ($record as $field => $sent)
        <tr>
          <td>{{ $field }}</td>
          <td>
            @if ($sent['parent'])
              <x-tag :space="$sent['parent']->space" :legacy="$sent['key']" :target="$sent['target']" />
              @if ($sent['target'] === null)
                <span class="quiet">the key it gets</span>
              @endif
            @elseif ($sent['default'] ?? false)
            <span class="quiet">not sent: the target's own default</span>@else<x-result :value="$sent['value']" />
            @endif
          </td>
        </tr>
      @endforeach
    </tbody>
  </table>
</div>
