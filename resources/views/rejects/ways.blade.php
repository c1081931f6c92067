@php($one = $open->kinds <= 1 ? $detail['values'][0] ?? null : null)
@php($first = $one === null ? null : array_values($detail['asRead'][(int) $one->id] ?? [])[0] ?? null)
@if ($open->field)
  <input type="hidden" name="field" value="{{ explode(', ', $open->field)[0] }}">
@endif
<p class="mb-1">What is done with <b x-text="which">{{ $all }}</b> is tried first:</p>
@if ($codes)
  <p class="row mb-1" data-line><input type="hidden" name="crosswalk" value="{{ $codes->crosswalk->name }}"><input
      type="hidden" name="made" value="{{ $codes->isMissing ? '' : 1 }}">
    <label for="code">{{ $codes->isMissing ? 'The code' : 'Its code' }} in <a class="linkish"
        href="{{ $page->code($codes->crosswalk, null, $open) }}">{{ $codes->crosswalk->name }}</a> becomes</label><input
      id="code" name="code" data-first @if ($codes->allowed) list="allowed-codes" @endif
      autocomplete="off"><label class="row"><input type="checkbox" name="is" value="empty"> stays
      empty</label><button class="btn small" name="what" value="code">Try the code</button>
  </p>
  @if ($codes->allowed)
    <datalist id="allowed-codes">
      @foreach ($codes->allowed as $value)
        <option value="{{ $value }}">
      @endforeach
    </datalist>
  @endif
@endif
@if ($detail['headers'] && !$detail['ragged'])
  <p class="row mb-1" data-line><label for="header">Correct</label><select id="header" name="header"
      x-on:change="ticked">
      @foreach ($detail['headers'] as $header)
        <option>{{ $header }}</option>
      @endforeach
    </select>
    <label for="to">to</label><input id="to" name="new" value="{{ $first }}" x-ref="to"
      data-cells="{{ $one === null ? '{}' : json_encode($detail['asRead'][(int) $one->id] ?? []) }}"
      @if (!$codes) data-first @endif><button class="btn small" name="what" value="correct">Try
      the
      value</button>
  </p>
@endif
@if ($detail['parents'])
  <p class="row mb-1" data-line><label for="parent">Where it has none, the parent is</label><select name="parent_is"
      aria-label="How the parent is named">
      <option value="record">the target's record</option>
      <option value="key">the one with the legacy key</option>
    </select><input id="parent" name="parent"><button class="btn small" name="what" value="parent">Try the
      parent</button>
    @can('work', $m)
      @php($default = "/m/$m->id/rejects/loads/$load->id/default/" . explode(', ', $open->field)[0])
      <a class="linkish" href="{{ $default }}?round={{ $page->round->id }}&code={{ $open->code }}">Or a record
        made
        for them</a>
    @endcan
  </p>
@endif
@if ($detail['rule'] && $open->field)
  @can('work', $m)
    <p class="row mb-1" data-line><label for="rule">The rule of {{ explode(', ', $open->field)[0] }}</label>
      <input type="hidden" name="version" value="{{ $detail['version'] }}"><input id="rule" name="expression"
        class="raw grow" value="{{ $detail['rule']->expression }}"><button class="btn small" name="what"
        value="rule">Try the rule</button>
    </p>
  @endcan
@endif
<p class="row mb-1" data-line><span>Or they stay behind</span><button class="btn small" name="what"
    value="stay">Try
    without them</button></p>
<p class="row mt-2"><label for="why">because</label><input id="why" name="reason" class="grow"
    maxlength="500" value="{{ old('reason', session('reason', '')) }}"></p>
@if ($open->field)
  <p class="mt-1"><a class="linkish" href="{{ $detail['sheet'] }}">The rule on its sheet, with these rows</a></p>
@endif
