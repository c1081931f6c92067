<x-layouts.app :page="$page" title="Sheet of control totals">
  @php($m = $page->migration)
  @php($entity = $page->entity?->name)
  <div class="head">
    <div>
      <h1>{{ $page->entity ? $say->label($entity) . ': sheet of control totals' : 'Sheet of control totals' }}</h1>
      <p>What legacy rows come to, by an expression over them, against a field of the records. The expression reads the
        row apart from the rules, so that what a rule loses shows.</p>
    </div>
    <div class="actions">
      <a class="btn" href="{{ $page->url('totals', $entity) }}">What they come to</a>
      @can('work', $m)
        <a class="btn main" href="/m/{{ $m->id }}/total{{ $entity ? "?entity=$entity" : '' }}">State a total</a>
      @endcan
    </div>
  </div>
  <x-proofs-of :$page on="totals" />
  <x-table :table="$totals" label="Control totals stated" empty="None is stated yet.">
    @foreach ($totals->rows() as $row)
      @php($t = $row->total)
      <tr class="hit">
        <td>
          @can('work', $m)
            <a href="/m/{{ $m->id }}/total/{{ $row->id }}">{{ $t->name }}</a>
          @else
            {{ $t->name }}
          @endcan
        </td>
        <td>{{ $t->load ?? $say->label($t->entity) }}</td>
        <td>{{ $t->kind->label() }}</td>
        <td>{{ $t->field }}</td>
        <td>
          @foreach ($row->legacy as $load => $expression)
            <code>{{ $expression }}</code>
            @if ($load !== '')
              <small>{{ $load }}</small>
            @endif
          @endforeach
        </td>
        <td>
          {{ $t->groupField === null ? '' : $t->groupField . ($t->groupBy->value === 'value' ? '' : ', ' . $t->groupBy->value) }}
          @if ($t->parentField)
            <small>adds up to {{ $t->parentField }}</small>
          @endif
        </td>
        <td class="n">{{ $t->tolerance === '0' ? '' : $amounts->said($t->tolerance) }}</td>
      </tr>
    @endforeach
  </x-table>
  @if ($suggested->total() > 0)
    <h2>
      {{ $say->count($suggested->total(), 'mapped amount, quantity or date', 'mapped amounts, quantities and dates') }}
      without a total</h2>
    <x-table :table="$suggested" label="Suggested control totals">
      @foreach ($suggested->rows() as $s)
        @php($t = $s['total'])
        <tr class="hit">
          <td>{{ $t->load }}</td>
          <td>{{ $t->field }}</td>
          <td>{{ $t->kind->label() }}</td>
          <td><code>{{ $t->legacyOf((string) $t->load) }}</code></td>
          <td>{{ $t->groupField ? "$t->groupField, year" : '' }}</td>
          <td class="quiet">{{ $s['why'] }}</td>
          <td>
            @can('work', $m)
              <form method="post" action="/m/{{ $m->id }}/total">@csrf
                @foreach ($amounts->asForm($t) as $name => $value)
                  <input type="hidden" name="{{ $name }}" value="{{ $value }}">
                @endforeach
                <button class="btn small" aria-label="Keep {{ $t->name }}">Keep</button>
              </form>
            @endcan
          </td>
        </tr>
      @endforeach
    </x-table>
  @endif
</x-layouts.app>
