@php($at = "/m/{$migration->id}/mapping/loads/{$load->id}/check")
@php($r = $check?->state->value === 'done' ? $check->result : null)
<div id="check"
  @if ($check?->isGoing()) hx-get="{{ $at }}" hx-trigger="every 800ms" hx-swap="outerHTML" @endif>
  @if ($check?->isGoing())
    <div class="note row" role="status"><span>Check:
        {{ $tell->tried($check) }}</span><progress max="{{ max(1, $check->rows_total) }}" value="{{ $check->rows_done }}"
        aria-label="Rows tried"></progress>
      @can('work', $migration)
        <form method="post" action="{{ $at }}/stop">@csrf<button class="linkish">Stop</button></form>
      @endcan
    </div>
  @elseif ($check?->state->value === 'failed')
    <div class="note bad" role="alert">{{ $check->error }}</div>
  @elseif ($r)
    <details class="panel check" @if (request()->is('*/check')) open @endif>
      <summary @class(['wait' => $stale])>{{ $stale ? 'Stale: rules or data have changed since. ' : '' }}Of
        {{ number_format($r['rows']) }} rows {{ number_format($r['rows'] - $r['excluded'] - $r['rejected']) }} pass,
        {{ number_format($r['rejected']) }} would be
        rejected{{ $r['excluded'] ? ', ' . number_format($r['excluded']) . ' are outside the scope' : '' }}. Nothing
        was
        written. <span class="quiet">{{ $say::when($check->finished_at, 'short') }}</span></summary>
      <table class="sheet mt-2">
        <thead>
          <tr>
            <th class="w-2/5">What would fail</th>
            <th>Field</th>
            <th>Values</th>
            <th class="n">Rows</th>
          </tr>
        </thead>
        <tbody>
          @forelse ([...$r['causes'], ...$r['others']] as $cause)
            <tr>
              <td>{{ $cause['message'] }}</td>
              <td>{{ $cause['field'] }}</td>
              <td>
                @foreach (array_slice($cause['values'] ?? [], 0, 4, true) as $value => $n)
                  <x-raw :value="$say->short((string) $value, 28)" /> <span class="quiet">{{ number_format($n) }}</span>&ensp;
                @endforeach
              </td>
              <td class="n"><a href="{{ $at }}/{{ $cause['number'] }}"
                  title="All of these rows">{{ number_format($cause['n']) }}</a></td>
            </tr>
          @empty<tr>
              <td colspan="4">Every row passes.</td>
            </tr>
          @endforelse
          @if ($r['excluded'])
            <tr>
              <td colspan="3">Outside the scope: {{ lcfirst((string) $load->scope_reason) }}</td>
              <td class="n"><a href="{{ $at }}/{{ $say::OUTSIDE }}"
                  title="All of these rows">{{ number_format($r['excluded']) }}</a></td>
            </tr>
          @endif
          @foreach ($r['unused_codes'] as $name => $n)
            <tr>
              <td colspan="4" class="quiet">{{ $say->count($n, 'old value') }} of the code crosswalk
                "{{ $name }}" {{ $n === 1 ? 'occurs' : 'occur' }} nowhere.</td>
            </tr>
          @endforeach
        </tbody>
      </table>
      @if (request()->is('*/check'))
        <p class="mt-2"><a class="linkish"
            href="/m/{{ $migration->id }}/mapping/{{ $load->entity->name }}?load={{ $load->id }}">Show per field
            how many rows pass</a></p>
      @endif
    </details>
  @endif
</div>
