<x-sources.extract :$page :$extract :$take :$latest :$show :open="$openFindings" :all="$allFindings">
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  <x-table :table="$findings" label="Findings" empty="Nothing odd was found in this take.">
    @foreach ($findings->rows() as $finding)
      <tr id="f{{ $finding->id }}">
        <td>{{ $finding->message }} <span class="quiet">{{ $say->advice($finding->code) }}</span>
          @if ($finding->note)
            <small>{{ $finding->note }}{{ $finding->decidedBy() }}</small>
          @endif
        </td>
        <td class="n">
          @if ($finding->rows)
            <a href="{{ $here }}/findings/{{ $finding->id }}">{{ number_format($finding->n) }}</a>
          @elseif ($finding->n > 0)
            {{ number_format($finding->n) }}
          @endif
        </td>
        <td>
          @can('repair', $page->migration)
            <form class="row nowrap" method="post" action="{{ $here }}/findings/{{ $finding->id }}">
              @csrf<select name="decision" aria-label="Decision on: {{ $finding->message }}">
                @foreach ($say->decisions() as $decision)
                  <option value="{{ $decision->value }}" @selected($finding->decision === $decision)>{{ $decision->label() }}
                  </option>
                @endforeach
              </select>
              <input name="note" value="{{ $finding->note }}" placeholder="why"
                aria-label="Why, for: {{ $finding->message }}"><button class="btn small">Keep</button>
            </form>@else{{ $finding->decision->label() }}
          @endcan
        </td>
      </tr>
    @endforeach
  </x-table>
</x-sources.extract>
