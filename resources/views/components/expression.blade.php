@props(['total', 'load', 'kind', 'label', 'placeholder' => ''])
@php($says = "$label $load")
@php($value = old("$kind.$load", $total->{$kind . 'Of'}($load)))
<div class="rule-line"><span>{{ $load }}</span>
  <div class="rule-box" role="combobox" aria-expanded="false" aria-haspopup="listbox"
    aria-label="{{ $says }}, with completions">
    <textarea class="rule" name="{{ $kind }}[{{ $load }}]" rows="1" spellcheck="false"
      autocapitalize="off" aria-autocomplete="list" aria-label="{{ $says }}" placeholder="{{ $placeholder }}">{{ $value }}</textarea>
  </div>
</div>
