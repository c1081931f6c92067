<div id="news" hx-get="/m/{{ $migration->id }}/mapping/loads/{{ $load->id }}/news?since={{ $since }}"
  hx-trigger="every 6s" hx-swap="outerHTML" aria-live="polite">
  @if ($changes->isNotEmpty())
    <div class="note">
      @foreach ($changes as $change)
        <p>{{ $change->user->name ?? 'A plan file' }} changed <b>{{ $change->field }}</b> at
          {{ $say::when($change->at, 'clock') }}: <code>{{ $say->short($change->says(), 120) }}</code>
          <button type="button" class="linkish"
            hx-get="/m/{{ $migration->id }}/mapping/loads/{{ $load->id }}/fields/{{ $change->field }}"
            hx-target="#rule-{{ $change->field }}" hx-swap="outerHTML">Show it in its line</button>
        </p>
      @endforeach
    </div>
  @endif
</div>
