<x-layouts.house title="Migrations">
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
  <x-table :table="$migrations" label="Migrations"
    empty="None yet. Read a plan file, or describe the target of the first one.">
    @foreach ($migrations->rows() as $migration)
      <tr>
        @php($in = auth()->user()->roleIn($migration)?->isOfTheClient() ? 'to-answer' : 'sources')
        <td><a href="/m/{{ $migration->id }}/{{ $in }}">{{ $migration->name }}</a></td>
        <td>{{ $migration->target_name }}</td>
        <td class="n">{{ $migration->sources_count }}</td>
        <td class="n">{{ $migration->loads_count }}</td>
        <td class="w-1/2">
          @forelse ($rounds[$migration->id] ?? [] as ['round' => $round, 'pass' => $pass, 'proof' => $proof])
            <div class="glance">
              <a href="/m/{{ $migration->id }}/reconciliation?round={{ $round->id }}">{{ $round->label() }}</a>
              <x-bar :bar="$say->bar($proof)" :label="$round->label()" />
              <span class="quiet">{{ $tell->glance($proof, $pass) }}</span>
            </div>
          @empty
            <span class="quiet">none yet</span>
          @endforelse
        </td>
        <td><a class="linkish" href="/m/{{ $migration->id }}/plan">Plan file</a>
          <x-mend :m="$migration" kind="migration" :id="$migration->id" />
        </td>
      </tr>
    @endforeach
  </x-table>
  @if ($mayBegin)
    <h2>Read a plan file</h2>
    <form class="panel row" method="post" action="/plans" enctype="multipart/form-data">@csrf
      <x-file id="plan" name="plan" label="Drop a plan here, or choose one" takes=".yaml, up to 8 MB"
        accept=".yaml,.yml,.json" /><button class="btn">Read the plan</button>
    </form>
    <h2>Begin a migration</h2>
    <form class="panel" method="post" action="/migrations">@csrf
      <div class="grid-form">
        @foreach ($fields as $field => $label)
          <div class="stack"><label for="f-{{ $field }}">{{ $label }}</label><input
              id="f-{{ $field }}" name="{{ $field }}" @if ($loop->first && $migrations->total() === 0) autofocus @endif
              @if ($field === 'password') type="password" autocomplete="off"
                @else value="{{ old($field, $field === 'port' ? '3306' : '') }}" required @endif>
          </div>
        @endforeach
        <div><button class="btn main">Begin the migration</button></div>
      </div>
    </form>
  @endif
</x-layouts.house>
