@props(['id' => 'current', 'required' => true])
@unless ($people::isConfirmed())
  <input type="email" autocomplete="username" value="{{ auth()->user()->email }}" hidden readonly>
  <div {{ $attributes->class('stack') }}><label for="{{ $id }}">Your own
      password{{ auth()->user()->hasSecondFactor() ? ', or a code' : '' }}</label><input id="{{ $id }}"
      name="current" type="password" autocomplete="current-password" maxlength="1000" @required($required)
      title="Asked again before what cannot be taken back; then not for ten minutes">
  </div>
@endunless
