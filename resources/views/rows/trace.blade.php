<x-layouts.app :page="$page" title="Trace">
  <div class="head">
    <div>
      <h1>{{ $q === '' ? 'Trace a key' : $say->count(count($found), 'row') . ' with the key "' . $q . '"' }}
      </h1>
      <p>
        @if ($q === '')
          Type a legacy key as the old system writes it, or a new key. Parts of a composite key stand with " / " between
          them.
        @elseif ($found === [])
          No row of {{ $page->round ? lcfirst($page->round->label()) : 'any round, since there is none yet' }} has this
          legacy or new key, written exactly so.
        @endif
      </p>
    </div>
  </div>
  @if ($last)
    <h2>Looked at last</h2>
    <table class="sheet" data-walk aria-label="Looked at last">
      <tbody>
        @foreach ($last as $l)
          <tr class="hit">
            <td><x-tag :space="$l['space']" :legacy="$l['legacy']" :target="$l['target']"
                href="/m/{{ $page->migration->id }}/rows/{{ $l['load'] }}/{{ $l['row'] }}?round={{ $l['round'] }}" />
            </td>
            <td>{{ $loads->get($l['load'])?->name }}</td>
            <td class="n">{{ number_format($l['row']) }}</td>
            <td class="whitespace-nowrap"><x-outcome :outcome="$l['outcome']" /></td>
            <td>{{ $page->rounds->firstWhere('id', $l['round'])?->label() }}</td>
          </tr>
        @endforeach
      </tbody>
    </table>
  @endif
  @if ($found)
    <x-table :table="$table" label="Rows with the key">
      @foreach ($table->rows() as $row)
        <tr class="hit">
          @php($space = $loads[$row->load_id]->space)
          <td><x-tag :$space :legacy="$row->legacy_key" :target="$row->target_key" :href="$page->journey($row)" /></td>
          <td>{{ $loads[$row->load_id]->name }}</td>
          <td class="n">{{ number_format($row->row_no) }}</td>
          <td class="whitespace-nowrap"><x-outcome :outcome="$row->outcome" /></td>
        </tr>
      @endforeach
    </x-table>
  @endif
</x-layouts.app>
