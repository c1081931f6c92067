<x-layouts.bare title="Migrations · Baggage">
  <header class="band">
    <div class="band-top"><a class="brand" href="/"><x-brand />Baggage</a>
      <div class="who ml-auto"><span>{{ auth()->user()->name }}, {{ auth()->user()->role->value }}</span>
        <form method="post" action="/logout">@csrf<button>Log out</button></form>
      </div>
    </div>
  </header>
  <main class="work">
    <x-told />
    @if ($planTold)
      <div class="note" data-lines>{{ $planTold['text'] }}@if ($planTold['link'])
          <a class="linkish" href="{{ $planTold['link'] }}">Show it</a>
        @endif
      </div>
    @endif
    <div class="head">
      <div>
        <h1>Migrations</h1>
        <p>Each is one client's move into one new application.</p>
      </div>
    </div>
    <table class="sheet">
      <thead>
        <tr>
          <th>Migration</th>
          <th>Into</th>
          <th class="n">Sources</th>
          <th class="n">Loads</th>
          <th class="n">Rounds</th>
          <th>Plan</th>
        </tr>
      </thead>
      <tbody>
        @forelse ($migrations as $migration)
          <tr>
            <td><a href="/m/{{ $migration->id }}/sources">{{ $migration->name }}</a></td>
            <td>{{ $migration->target_name }}</td>
            <td class="n">{{ $migration->sources_count }}</td>
            <td class="n">{{ $migration->loads_count }}</td>
            <td class="n">{{ $migration->rounds_count }}</td>
            <td><a class="linkish" href="/m/{{ $migration->id }}/plan">Plan file</a></td>
          </tr>
        @empty
          <tr>
            <td colspan="6">None yet. Read a plan file, or describe the target of the first one.</td>
          </tr>
        @endforelse
      </tbody>
    </table>
    @if ($mayBegin)
      <h2>Read a plan file</h2>
      <form class="panel row" method="post" action="/plans" enctype="multipart/form-data">@csrf
        <label for="plan">Plan (.yaml)</label><input id="plan" name="plan" type="file"
          accept=".yaml,.yml" required><button class="btn">Read the plan</button>
      </form>
      <h2>Begin a migration</h2>
      <form class="panel" method="post" action="/migrations">@csrf
        <div class="grid-form">
          @foreach ($fields as $field => $label)
            <div class="stack"><label for="f-{{ $field }}">{{ $label }}</label><input
                id="f-{{ $field }}" name="{{ $field }}"
                @if ($field === 'password') type="password" autocomplete="off"
                @else value="{{ old($field, $field === 'port' ? '3306' : '') }}" required @endif>
            </div>
          @endforeach
          <div><button class="btn main">Begin the migration</button></div>
        </div>
      </form>
    @endif
  </main>
</x-layouts.bare>
