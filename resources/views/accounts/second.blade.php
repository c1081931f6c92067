<x-layouts.house title="Second factor">
  <div class="head">
    <div>
      <h1>Second factor</h1>
      <p>Besides your password, a code that a device of yours shows and that changes every half minute.
        {{ $isAsked ? 'Your role needs one.' : '' }}</p>
    </div>
  </div>
  @if (session('codes'))
    <section class="panel" aria-labelledby="codes">
      <h2 id="codes">Recovery codes, shown this once</h2>
      <p>Each opens your account once when the device is not at hand. Print them, or keep them where your passwords are.
      </p>
      <ul class="codes" data-arrive tabindex="-1">
        @foreach (session('codes') as $code)
          <li><code>{{ $code }}</code></li>
        @endforeach
      </ul>
    </section>
  @endif
  @if ($user->hasSecondFactor())
    <p>Set up {{ $say::when($user->totp_since, 'full') }}. {{ $say->count($left, 'recovery code') }}
      {{ $left === 1 ? 'is' : 'are' }} left.</p>
    <x-confirm-first before="A change here" />
    <div class="row">
      <form method="post" action="/account/second/codes">@csrf<button class="btn">New recovery codes</button></form>
      @unless ($isAsked)
        <form method="post" action="/account/second">@csrf @method('delete')<button class="btn">Take it
            away</button></form>
      @endunless
    </div>
  @elseif ($spelled)
    <div class="panel second">
      <div>{!! $picture !!}</div>
      <form class="stack" method="post" action="/account/second">@csrf
        <p>Let the device read the picture, or type this key into it:</p>
        <p><code class="raw" id="key">{{ $spelled }}</code></p>
        <label for="code">The code it shows now</label><input id="code" name="code" inputmode="numeric"
          autocomplete="one-time-code" required maxlength="40" autofocus>
        <div><button class="btn main">Set it up</button></div>
      </form>
    </div>
  @else
    <form class="panel grid-form" method="post" action="/account/second/begin">@csrf
      <x-confirm />
      <div><button class="btn main">Begin</button></div>
    </form>
  @endif
</x-layouts.house>
