@php($version = $specification->version())
<h1>
  Mapping specification: {{ $specification->only->name ?? $specification->migration->name }}</h1>
<p>{{ $specification->migration->name }}, into {{ $specification->migration->target_name }}. Version
  {{ $version['number'] }}, plan {{ $version['hash'] }}, {{ now()->format('j F Y H:i') }} UTC.</p>
@foreach ($specification->parts() as $part)
  @php($load = $part['load'])
  <h2>{{ $load->name }}</h2>
  <p>Each row of {{ $load->extract->source->code }} {{ $load->extract->name }}
    ({{ number_format($load->extract->take?->rows ?? 0) }} rows, take {{ $load->extract->take?->number ?? 0 }})
    {{ $load->reads() ? 'changes the' : 'becomes one' }}
    {{ str_replace('_', ' ', $load->entity->name) }}{{ $load->reads() ? ' its legacy key leads to' : '' }}:
    {{ $part['policy'] }}. Its legacy key is
    {{ implode(' / ', $load->key_columns) }}{{ $load->namesSpace() ? ', in the key space ' . $load->keySpace() : '' }}.
    @if ($load->matches()->isNotEmpty())
      Rows that agree in
      {{ $load->matches()->map(fn($r) => implode(' and ', array_keys($r->on)))->join(', or else in ') }}
      are one record.
      @endif @if ($load->note)
        {{ $load->note }}
      @endif
  </p>
  @if ($load->scope)
    <p>Only rows where {{ $load->scope }}. The others are left out: {{ $load->scope_reason }}.</p>
  @endif
  <table class="sheet" border="1" cellpadding="3">
    <thead>
      <tr>
        <th width="16%"><b>Field</b></th>
        <th width="16%"><b>Type</b></th>
        <th width="30%"><b>Rule</b></th>
        <th width="20%"><b>Note</b></th>
        <th width="18%"><b>Row {{ $part['sample'] ?? 1 }}: before, after</b></th>
      </tr>
    </thead>
    <tbody>
      @foreach ($part['fields'] as $f)
        <tr nobr="true">
          <td width="16%">{{ $f['name'] }}</td>
          <td width="16%">{{ $f['type'] }}</td>
          <td width="30%">
            @if ($f['rule'] !== null)
              <code>{{ $f['rule'] }}</code>
            @elseif ($f['empty'] !== null)
              left empty: {{ $f['empty'] }}@else<b>not decided</b>
            @endif
          </td>
          <td width="20%">{{ $f['note'] }}</td>
          <td width="18%">
            @if ($f['rule'] !== null)
              {{ $f['before'] }}
              <br>{{ $f['after'] }}
            @endif
          </td>
        </tr>
      @endforeach
    </tbody>
  </table>
  @if ($part['left'] || $part['undecided'])
    <p>
      @if ($part['left'])
        <b>Left behind:</b>
        {{ implode('; ', array_map(fn($h, $r) => "$h (" . rtrim($r, '.') . ')', array_keys($part['left']), $part['left'])) }}.
      @endif
      @if ($part['undecided'])
        Not decided yet: {{ implode(', ', $part['undecided']) }}.
      @endif
    </p>
  @endif
@endforeach
@foreach ($specification->codes() as $code)
  <h2>Codes: {{ $code['name'] }}</h2>
  <p>{{ $code['uses'] === '' ? 'Not used by a rule.' : "Used by $code[uses]." }} Old values without an entry:
    {{ $code['otherwise']->label() }}{{ $code['otherwise']->name === 'Value' ? ", $code[value]" : '' }}.
    {{ $code['note'] }}</p>
  <table class="sheet" border="1" cellpadding="3">
    <thead>
      <tr>
        <th width="30%"><b>Old value</b></th>
        <th width="12%"><b>Rows</b></th>
        <th width="30%"><b>New value</b></th>
        <th width="28%"><b>Note</b></th>
      </tr>
    </thead>
    <tbody>
      @foreach ($code['values'] as $v)
        <tr nobr="true">
          <td width="30%">{{ $v->old }}</td>
          <td width="12%" class="n">{{ number_format($v->rows) }}</td>
          <td width="30%">
            {{ !$v->mapped ? 'not decided' : ($v->rejected ? 'rejects the row' : $v->new ?? 'left empty') }}
          </td>
          <td width="28%">{{ $v->note }}</td>
        </tr>
      @endforeach
    </tbody>
  </table>
@endforeach
@if ($unread = $specification->unread())
  <h2>Extracts left behind</h2>
  <p>
    @foreach ($unread as $name => $reason)
      {{ $name }}: @if ($reason === null)
        <b>not decided</b>@else{{ $reason }}
      @endif
      <br>
    @endforeach
  </p>
@endif
<h2>Sign-off</h2>
<p>The mapping above, version {{ $version['number'] }} (plan {{ $version['hash'] }}), is accepted.</p>
<table class="sheet" border="1" cellpadding="9">
  <tbody>
    <tr>
      <td width="34%">Name</td>
      <td width="33%">Date</td>
      <td width="33%">Signature</td>
    </tr>
  </tbody>
</table>
