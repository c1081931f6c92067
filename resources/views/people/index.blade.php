<x-layouts.app :page="$page" title="People">
  @php($m = $page->migration)
  @php($may = auth()->user()->can('invite', $m))
  <div class="head">
    <div>
      <h1>People</h1>
      <p>Who sees this migration, and what they may do in it. Nobody else knows that it is there.</p>
    </div>
    <div class="actions">
      @can('audit', $m)
        <a class="btn" href="/m/{{ $m->id }}/log">Who did what</a>
      @endcan
    </div>
  </div>
  @if ($may)
    <form class="panel grid-form" method="post" action="/m/{{ $m->id }}/people">@csrf
      <div class="stack"><label for="name">Name</label><input id="name" name="name"
          value="{{ old('name') }}" required maxlength="100"></div>
      <div class="stack"><label for="email">E-mail address</label><input id="email" name="email"
          value="{{ old('email') }}" required maxlength="254" inputmode="email"></div>
      <div class="stack"><label for="role">Role</label><select id="role" name="role">
          @foreach ($roles as $role)
            <option @selected(old('role', 'consultant') === $role->value)>{{ $role->value }}</option>
          @endforeach
        </select></div>
      <div><button class="btn main">Invite</button></div>
    </form>
  @endif
  @if ($may && $hasInvited)
    <x-confirm-first before="Another link" />
  @endif
  <x-table :table="$members" label="People of this migration">
    @foreach ($members->rows() as $member)
      <tr class="hit">
        <td>{{ $member->user->name }}</td>
        <td>{{ $member->user->email }}</td>
        <td>
          @if ($may)
            <form class="row" method="post" action="/m/{{ $m->id }}/people/{{ $member->user_id }}">
              @csrf<x-was :of="$member" :keys="['role']" /><select name="role"
                aria-label="Role of {{ $member->user->name }}">
                @foreach ($roles as $role)
                  <option @selected($member->role === $role)>{{ $role->value }}</option>
                @endforeach
              </select><button class="btn small">Change</button></form>
          @else
            {{ $member->role->value }}
          @endif
        </td>
        <td>{{ $people->account($member->user) }}</td>
        <td>
          @if ($may)
            <div class="row">
              @if ($member->user->password === null)
                <form method="post" action="/m/{{ $m->id }}/people/{{ $member->user_id }}/link">@csrf<button
                    class="linkish" aria-label="New link for {{ $member->user->name }}">New link</button></form>
              @endif
              <form method="post" action="/m/{{ $m->id }}/people/{{ $member->user_id }}">@csrf
                @method('delete')<button class="linkish" aria-label="Take out {{ $member->user->name }}">Take
                  out</button></form>
            </div>
          @endif
        </td>
      </tr>
    @endforeach
  </x-table>
  <h2>What each role may do</h2>
  <table class="sheet">
    <thead>
      <tr>
        <th>Right</th>
        @foreach ($roles as $role)
          <th>{{ $role->value }}</th>
        @endforeach
      </tr>
    </thead>
    <tbody>
      @foreach ($rights as $right)
        <tr>
          <td>{{ $right->words() }}</td>
          @foreach ($roles as $role)
            <td @class(['zero' => !$role->may($right)])>{{ $role->may($right) ? 'yes' : 'no' }}</td>
          @endforeach
        </tr>
      @endforeach
    </tbody>
  </table>
</x-layouts.app>
