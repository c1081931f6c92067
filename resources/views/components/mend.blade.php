@props(['m', 'kind', 'id', 'label' => 'Change or remove'])
@can('work', $m)
  <a {{ $attributes->class('linkish') }}
    href="/m/{{ $m->id }}/mend/{{ $kind }}/{{ $id }}">{{ $label }}</a>
@endcan
