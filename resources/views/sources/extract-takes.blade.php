<x-sources.extract :$page :$extract :$take :$latest :$show :open="$openFindings" :all="$allFindings">
  @php($base = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  <x-table :table="$takes" label="Takes">
    @foreach ($takes->rows() as $t)
      @php($c = $t->compared)
      <tr @class(['chosen' => $t->id === $take->id])>
        <td class="n">{{ $t->number }}</td>
        <td>{{ $t->file_name }}<small><code>{{ substr((string) $t->checksum, 0, 16) }}</code></small></td>
        <td class="whitespace-nowrap">{{ $say::when($t->taken_at, 'second') }}</td>
        <td>{{ $t->state->value }}@if ($t->error)
            <small class="bad">{{ $t->error }}</small>
          @endif
        </td>
        <td class="n">{{ $t->rows === null ? '' : number_format($t->rows) }}</td>
        <td @class([
            'n',
            'bad' => $t->stated_rows !== null && $t->stated_rows !== $t->rows,
        ])>{{ $t->stated_rows === null ? '' : number_format($t->stated_rows) }}
          @if ($t->stated_by)
            <small>{{ $t->stated_by }}</small>
          @endif
        </td>
        @if ($c)
          @foreach ($say::CHANGES as $kind)
            <td class="n">
              @if ($c[$kind] === null)
                no key
              @elseif ($c[$kind] === 0)
              <span class="zero">0</span>@else<a
                  href="{{ $base }}?show=changes&of={{ $t->number }}&kind={{ $kind }}">{{ number_format($c[$kind]) }}</a>
              @endif
            </td>
          @endforeach
          <td>
            @foreach ($c['columns_added'] as $h)
              <small>{{ $h }} added</small>
              @endforeach @foreach ($c['columns_gone'] as $h)
                <small class="bad">{{ $h }} gone</small>
                @endforeach @foreach ($c['columns_renamed'] as $was => $is)
                  <small class="wait">{{ $was }} now {{ $is }}</small>
                  @endforeach @if (!$c['columns_added'] && !$c['columns_gone'] && !$c['columns_renamed'])
                    the same
                  @endif
          </td>
        @else<td class="n" colspan="4">
            {{ $t->number === 1 || $t->state->value !== 'frozen' ? '' : 'not compared yet' }}</td>
        @endif
        <td>
          @foreach ($t->parameters ?? [] as $name => $value)
            <small><code>:{{ $name }} = {{ $value }}</code></small>
          @endforeach
        </td>
      </tr>
    @endforeach
  </x-table>
  @php($c = $take->compared)
  @if ($c && $c['key'])
    <p class="quiet mt-2">Rows are told apart by {{ implode(' + ', $c['key']) }}.</p>
  @endif
  @can('work', $page->migration)
    <h2>What the client says</h2>
    <form class="panel row" method="post"
      action="/m/{{ $page->migration->id }}/sources/takes/{{ $take->id }}/stated">
      @csrf
      <label for="stated">Take {{ $take->number }} has, as the client states,</label><input id="stated"
        name="rows" inputmode="numeric" size="9" value="{{ $take->stated_rows }}"> rows <button
        class="btn small">Keep</button>
      @if ($take->stated_rows !== null && $take->stated_rows !== $take->rows)
        <span class="bad">{{ $take->statedCount() }}</span>
      @endif
    </form>
    <form class="panel row" method="post" action="{{ $base }}/covering">@csrf
      Or it is itself a covering sheet, with names of files or tables in <select name="name"
        aria-label="Column with names">
        <option value="">no column</option>
        @foreach ($extract->columns as $c)
          <option @selected(($extract->covering['name'] ?? null) === $c['header'])>{{ $c['header'] }}</option>
        @endforeach
      </select> and their rows in <select name="rows" aria-label="Column with numbers of rows">
        <option value="">no column</option>
        @foreach ($extract->columns as $c)
          <option @selected(($extract->covering['rows'] ?? null) === $c['header'])>{{ $c['header'] }}</option>
        @endforeach
      </select> <button class="btn small">{{ $extract->covering ? 'Keep' : 'Read it as that' }}</button>
    </form>
  @endcan
</x-sources.extract>
