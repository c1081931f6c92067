<x-layouts.app :page="$page" title="Changes of {{ $list->file_name }}">
  @php($open = $list->open())
  <div class="head">
    <div>
      <h1>What {{ $list->file_name }} changes</h1>
      <p>Read {{ $say::when($list->created_at, 'full') }} by {{ $list->user->name ?? 'somebody' }}:
        {{ $say->count(count($list->changes), 'change') }}, {{ count($open) }} to be decided. Nothing is
        changed before it is accepted here.
        @if ($list->kind->name === 'Plan')
          A plan counts as a whole: what is not ticked stays as it is here.
        @endif
      </p>
    </div>
    <div class="actions"><a class="btn"
        href="{{ $list->kind->name === 'Mapping' ? $page->url('mapping/document') : $page->url($list->kind->stop()) }}">Back</a>
    </div>
  </div>
  <form id="decide" method="post" action="/m/{{ $page->migration->id }}/changes/{{ $list->id }}">@csrf</form>
  <x-table :table="$table" label="Changes" empty="It says what is kept already.">
    @foreach ($table->rows() as [$i, $c])
      <tr>
        <td><label class="plain" for="c-{{ $i }}">
            @if ($c->isOpen())
              @can('work', $page->migration)
                <input form="decide" type="checkbox" id="c-{{ $i }}" name="accept[]"
                  value="{{ $i }}" checked>
              @endcan
            @endif{{ $c->where }}
          </label></td>
        <td>{{ $c->part }}</td>
        <td>
          @if ($c->from === '')
          <span class="none">nothing</span>@else<code>{{ $c->from }}</code>
          @endif
        </td>
        <td>
          @if ($c->to === '')
          <span class="none">nothing</span>@else<code>{{ $c->to }}</code>
          @endif
        </td>
        <td class="{{ $c->state->tone() }}">{{ $c->state->label() }}@if ($c->problem)
            <small class="bad">{{ $c->problem }}</small>
          @endif
        </td>
      </tr>
    @endforeach
  </x-table>
  @if ($open)
    @can('work', $page->migration)
      @if ($table->isFiltered() && $list->kind->name === 'Plan')
        <p class="quiet mt-3">A plan counts as a whole: <a class="linkish" href="{{ $table->unfiltered() }}">show all
            changes</a> to decide on them.</p>
      @else
        <p class="actions mt-3"><button form="decide" class="btn main" name="do" value="accept">Make the ticked
            changes</button><button form="decide" class="btn" name="do" value="refuse">Refuse the ticked
            ones</button></p>
      @endif
    @endcan
  @endif
</x-layouts.app>
