<x-sources.extract :$page :$extract :$take :$latest :$show :open="$openFindings" :all="$allFindings">
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  @can('repair', $page->migration)
    <form id="keep-findings" method="post" action="{{ $here }}/findings">@csrf<button hidden>Keep all
        decisions</button></form>
  @endcan
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
            <div class="row nowrap"><input form="keep-findings" type="hidden" name="decisions[{{ $finding->id }}][was]"
                value="{{ $finding->state() }}"><select form="keep-findings"
                name="decisions[{{ $finding->id }}][decision]" aria-label="Decision on: {{ $finding->message }}">
                @foreach ($say->decisions() as $decision)
                  <option value="{{ $decision->value }}" @selected($finding->decision === $decision)>{{ $decision->label() }}
                  </option>
                @endforeach
              </select>
              <input form="keep-findings" name="decisions[{{ $finding->id }}][note]" value="{{ $finding->note }}"
                placeholder="why" aria-label="Why, for: {{ $finding->message }}"><button form="keep-findings"
                class="btn small" name="only" value="{{ $finding->id }}" data-only
                aria-label="Keep the decision on: {{ $finding->message }}">Keep</button>
            </div>@else{{ $finding->decision->label() }}
          @endcan
        </td>
      </tr>
    @endforeach
  </x-table>
  @can('repair', $page->migration)
    @if ($findings->count() > 1)
      <p class="mt-2"><button form="keep-findings" class="btn small">Keep all decisions</button></p>
    @endif
  @endcan
</x-sources.extract>
