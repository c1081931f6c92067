@props(['title', 'name', 'label', 'value', 'placeholder' => ''])
<div class="rule-line"><span>{{ $title }}</span>
  <div class="rule-box" role="combobox" aria-expanded="false" aria-haspopup="listbox"
    aria-label="{{ $label }}, with completions">
    <textarea class="rule" name="{{ $name }}" rows="1" spellcheck="false" autocapitalize="off"
      aria-autocomplete="list" aria-label="{{ $label }}" placeholder="{{ $placeholder }}">{{ $value }}</textarea>
  </div>
</div>
