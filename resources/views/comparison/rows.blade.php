<x-layouts.app :page="$page" title="Records that differ">
  @php($m = $page->migration)
  @php($gone = $field === '')
  <div class="head">
    <div>
      <h1>{{ $load->name }}{{ $field === '' ? '' : ", $field" }}: {{ $class }}</h1>
      <p>
        {{ $gone ? 'The record was there, and is not any more.' : $amounts->happened($happened) }}
        Compared {{ $say::when($reckoning->done_at, 'counted') }}.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('comparison', $page->entity?->name) }}">All fields</a></div>
  </div>
  <x-works :works="$works" :$m />
  @php($behind = compact('field', 'class', 'happened') + ['what' => 'compared', 'reckoning' => $reckoning->id])
  <x-differences-file :$page :of="$behind + ['load' => $load->id]" label="All of them as .csv" />
  @php($form = compact('field', 'class') + ['reckoning' => $reckoning->id])
  @if ($again !== null && $count > 0)
    @can('repair', $m)
      <div class="panel row mt-2">
        <x-write-again :$page :$load :of="$form" class="btn main">{{ $gone ? 'Make' : 'Write' }}
          {{ $say->count($count, 'record') }} {{ $gone ? 'anew' : 'again' }}</x-write-again>
        <x-write-again :$page :$load :of="$form" leave class="btn">Leave them as they are</x-write-again>
        <p class="quiet">
          @if ($gone)
            Each is made anew, under another key of the target, with what its row gives now, when the rows that are due
            are loaded. Compare what refers to it again afterwards.
          @else
            Each is written whole, with what its row gives now, when the rows that are due are loaded. What somebody
            entered there since is lost; backing the pass out brings it back.
          @endif
        </p>
        @if ($marked > 0)
          <p>{{ $say->count($marked, 'record') }} of {{ $load->name }} {{ $marked === 1 ? 'is' : 'are' }} to be
            written
            again. <a class="linkish" href="{{ $page->url('rejects') }}">Load what is due</a></p>
        @endif
      </div>
    @endcan
  @endif
  <table class="sheet" data-walk aria-label="Rows">
    <thead>
      <tr>
        <th class="n">Row</th>
        @unless ($gone)
          <th>Sent</th>
          <th>The record says</th>
        @endunless
        @if ($again !== null)
          <th>It will be</th>
        @endif
      </tr>
    </thead>
    <tbody>
      @forelse ($rows as $row)
        @php($isMarked = isset($again[$row->item]))
        <tr class="hit">
          <td class="n"><a
              href="/m/{{ $m->id }}/rows/{{ $row->load_id }}/{{ $row->item }}">{{ number_format($row->item) }}</a>
          </td>
          @unless ($gone)
            <td><x-raw :value="$row->legacy" /></td>
            <td><x-raw :value="$row->target" /></td>
          @endunless
          @if ($again !== null)
            <td>
              <div class="row">
                <span>{{ $isMarked ? ($gone ? 'made anew' : 'written again') : 'left as it is' }}</span>
                @can('repair', $m)
                  <x-write-again :$page :$load :of="$form + ['row' => $row->item]" :leave="$isMarked" class="btn small">
                    {{ $isMarked ? 'Leave it' : ($gone ? 'Make it anew' : 'Write it again') }}</x-write-again>
                @endcan
              </div>
            </td>
          @endif
        </tr>
      @empty
        <tr>
          <td colspan="4">No such row.</td>
        </tr>
      @endforelse
    </tbody>
  </table>
  @if ($next)
    <p class="mt-2"><a class="btn small" href="{{ request()->fullUrlWithQuery(['after' => $next]) }}">The next
        rows</a></p>
  @endif
</x-layouts.app>
