@props(['works', 'm'])
@foreach ($works as $work)
  <x-work :work="$work" :m="$m" />
@endforeach
