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
</x-sources.extract>
