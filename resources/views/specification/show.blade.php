<x-layouts.app :page="$page" title="Specification">
  @php($here = "/m/{$page->migration->id}/mapping/document")
  @php($q = $specification?->only ? '?load=' . $specification->only->id : '')
  <div class="head no-print">
    <div>
      <p>What a client reads, corrects and signs. The workbook may be edited and read back: every changed cell is then
        shown beside what it was.</p>
    </div>
    <div class="actions">
      <form class="row" action="{{ $here }}"><label for="load" class="sr-only">Of</label><select
          id="load" name="load" data-send>
          <option value="">the whole migration</option>
          @foreach ($loads as $l)
            <option value="{{ $l->id }}" @selected($specification?->only?->id === $l->id)>{{ $l->name }}</option>
          @endforeach
        </select>
      </form>
      <a class="btn" href="{{ $here }}.pdf{{ $q }}">PDF</a><a class="btn"
        href="{{ $here }}.xlsx{{ $q }}">Workbook</a>
    </div>
  </div>
  @can('work', $page->migration)<form class="panel row no-print" method="post" action="{{ $here }}"
      enctype="multipart/form-data">@csrf<x-file id="file" name="file"
        label="Drop a workbook that came back here, or choose it" takes=".xlsx as it was sent out"
        accept=".xlsx" /><button class="btn small">Read it and list its
        changes</button>
      @foreach ($lists as $list)
        <a class="linkish" href="/m/{{ $page->migration->id }}/changes/{{ $list->id }}">{{ $list->file_name }},
          {{ $say::when($list->created_at, 'short') }}:
          {{ count($list->open()) }} open</a>
      @endforeach
  </form>@endcan
  @if ($specification)
    <article class="document">@include('specification.body')</article>
  @endif
</x-layouts.app>
