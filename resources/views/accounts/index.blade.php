<x-layouts.house title="Accounts">
  <div class="head">
    <div>
      <h1>Accounts</h1>
      <p>Who can log in here. What somebody sees is decided in each migration by its leads; administrators see none by
        this.</p>
    </div>
  </div>
  @foreach ($leaderless as $migration)
    <form class="note row" method="post" action="/accounts/appoint">@csrf<input type="hidden" name="of"
        value="{{ $migration->id }}"><label for="lead-{{ $migration->id }}">{{ $migration->name }} came by the command
        line and has no lead. Its lead is</label><select id="lead-{{ $migration->id }}" name="user">
        @foreach ($able as $user)
          <option value="{{ $user->id }}" @selected($user->id === auth()->id())>{{ $user->name }}, {{ $user->email }}
          </option>
        @endforeach
      </select><button class="btn small">Appoint</button></form>
  @endforeach
  <form class="panel grid-form" method="post" action="/accounts">@csrf
    <div class="stack"><label for="name">Name</label><input id="name" name="name"
        value="{{ old('name') }}" required maxlength="100"></div>
    <div class="stack"><label for="email">E-mail address</label><input id="email" name="email"
        value="{{ old('email') }}" required maxlength="254" inputmode="email"></div>
    <label class="row"><input type="checkbox" name="administrator" value="1" @checked(old('administrator'))>
      Administers the installation</label>
    <div><button class="btn main">Invite</button></div>
  </form>
  <x-confirm-first before="A new link, another administrator, or taking a second factor away" />
  <x-table :table="$accounts" label="Accounts">
    @foreach ($accounts->rows() as $user)
      <tr class="hit">
        <td>{{ $user->name }}
          @if ($user->is_administrator)
            <small>administrator</small>
          @endif
        </td>
        <td>{{ $user->email }}</td>
        <td class="n">{{ $user->memberships_count }}</td>
        <td>{{ $people->account($user) }}</td>
        <td>{{ $user->hasSecondFactor() ? 'yes' : 'no' }}</td>
        <td>
          <form class="row" method="post" action="/accounts/{{ $user->id }}">@csrf
            @if ($user->disabled_at)
              <button class="btn small" name="do" value="enable"
                aria-label="Enable {{ $user->name }}">Enable</button>
            @elseif ($user->is(auth()->user()))
              <a class="btn small" href="/account">Your account</a>
            @else
              <button class="btn small" name="do" value="reset" aria-label="New link for {{ $user->name }}">New
                link</button>
              <button class="btn small" name="do" value="end"
                aria-label="Log out everywhere: {{ $user->name }}">Log out everywhere</button>
              @if ($user->is_administrator)
                <button class="btn small" name="do" value="none"
                  aria-label="No administrator: {{ $user->name }}">No administrator</button>
              @else
                <button class="btn small" name="do" value="administrator"
                  aria-label="Make an administrator of {{ $user->name }}">Administrator</button>
              @endif
              @if ($user->hasSecondFactor())
                <button class="btn small" name="do" value="second"
                  aria-label="Take the second factor of {{ $user->name }} away">No second factor</button>
              @endif
              <button class="btn small" name="do" value="disable"
                aria-label="Disable {{ $user->name }}">Disable</button>
            @endif
          </form>
        </td>
      </tr>
    @endforeach
  </x-table>
</x-layouts.house>
