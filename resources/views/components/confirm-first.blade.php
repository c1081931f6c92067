@props(['before'])
@unless ($people::isConfirmed())
  <form class="note row" method="post" action="/account/confirm">@csrf
    <input type="email" autocomplete="username" value="{{ auth()->user()->email }}" hidden readonly>
    <label for="confirm-current">{{ $before }} asks who you are once more: your
      password{{ auth()->user()->hasSecondFactor() ? ', or a code' : '' }}</label><input id="confirm-current" name="current"
      type="password" autocomplete="current-password" required maxlength="1000"><button class="btn small">Confirm</button>
  </form>
@endunless
