@props([
    'id',
    'name',
    'takes',
    'label' => 'Drop a file here, or choose one',
    'accept' => null,
    'multiple' => false,
    'required' => true,
])
<label class="file" for="{{ $id }}" data-drop>
  <input id="{{ $id }}" name="{{ $name }}" type="file" class="sr-only"
    @if ($accept) accept="{{ $accept }}" @endif @required($required)
    @if ($multiple) multiple @endif>
  <span>{{ $label }}</span> <small>{{ $takes }}</small> <b data-chosen role="status"></b>
</label>
