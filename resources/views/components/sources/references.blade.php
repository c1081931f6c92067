@props(['table', 'page'])
@php($base = "/m/{$page->migration->id}/sources")
<x-table :table="$table" label="References"
  empty="No reference was found in the data, or they are still being looked for.">
  @foreach ($table->rows() as $r)
    <tr @class(['zero' => $r->decision->value === 'dismissed'])>
      <td><a href="{{ $base }}/extracts/{{ $r->extract_id }}?show=keys">{{ $r->extract->source->code }}
          {{ $r->extract->name }}</a> <code>{{ implode(' + ', $r->columns) }}</code></td>
      <td>{{ $r->parent->source->code }} {{ $r->parent->name }} <code>{{ implode(' + ', $r->parent_columns) }}</code>
      </td>
      <td class="n whitespace-nowrap">{{ number_format($r->values_found) }} of {{ number_format($r->values_total) }},
        {{ $r->coverage() }} %</td>
      @php($orphans = number_format($r->orphan_rows))
      <td @class(['n', 'zero' => $r->orphan_rows === 0])>
        @if ($r->orphan_rows && $r->number)
          <a
            href="{{ $base }}/references?orphans={{ $r->id }}#orphans">{{ $orphans }}</a>@else{{ $orphans }}
        @endif
      </td>
      <td class="whitespace-nowrap">
        @can('work', $page->migration)
          <form class="row nowrap" method="post" action="{{ $base }}/references/{{ $r->id }}">@csrf
            @if ($r->decision->value === 'found')
              <button class="linkish" name="decision" value="accepted"
                aria-label="Accept {{ implode(' + ', $r->columns) }} of {{ $r->extract->name }}">Accept</button>
              <button class="linkish" name="decision" value="dismissed"
                aria-label="{{ implode(' + ', $r->columns) }} of {{ $r->extract->name }} is no reference">No
                reference</button>
              @else{{ $r->decision->value === 'accepted' ? 'accepted' : 'no reference' }} <button class="linkish"
                name="decision" value="found"
                aria-label="Undo for {{ implode(' + ', $r->columns) }} of {{ $r->extract->name }}">Undo</button>
            @endif
          </form>
          @else{{ $r->decision->value }}
        @endcan
      </td>
    </tr>
  @endforeach
</x-table>
