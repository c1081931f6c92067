@props(['outcome', 'word' => true])
<svg class="mark-shape" viewBox="0 0 12 12" aria-hidden="true">
  @switch($outcome)
    @case('loaded')
      <rect class="f-loaded" x="1" y="1" width="10" height="10" />
    @break

    @case('updated')
      <rect class="s-updated" x="1.5" y="1.5" width="9" height="9" stroke-width="1.5" />
      <rect class="f-updated" x="1" y="6" width="10" height="5" />
    @break

    @case('unchanged')
      <rect class="s-unchanged" x="1.5" y="1.5" width="9" height="9" stroke-width="1.5" />
    @break

    @case('merged')
      <rect class="s-merged" x="1" y="1" width="7" height="7" stroke-width="1.5" />
      <rect class="f-merged" x="4" y="4" width="7" height="7" />
    @break

    @case('removed')
      <rect class="s-updated" x="1.5" y="1.5" width="9" height="9" stroke-width="1.5" />
      <rect class="f-removed" x="0" y="5" width="12" height="2" />
    @break

    @case('gone')
      <rect class="s-excluded" x="1.5" y="1.5" width="9" height="9" stroke-width="1.5" stroke-dasharray="2 2" />
    @break

    @case('review')
      <rect class="s-review" x="1.5" y="1.5" width="9" height="9" stroke-width="1.5" stroke-dasharray="2 2" />
      <circle class="f-held" cx="6" cy="6" r="2" />
    @break

    @case('withdrawn')
      <path class="s-excluded" d="M2 6H10" stroke-width="1.5" stroke-dasharray="2 2" />
    @break

    @case('excluded')
      <circle class="s-excluded" cx="6" cy="6" r="4.5" stroke-width="1.5" />
      <path class="s-excluded" d="M3 9L9 3" stroke-width="1.5" />
    @break

    @case('held')
      <path class="f-held" d="M6 1a5 5 0 0 0 0 10z" />
      <circle cx="6" cy="6" r="4.5" fill="none" stroke="var(--o-held)" stroke-width="1.2" />
    @break

    @case('rejected')
      <path class="f-rejected" d="M6 0l6 6-6 6-6-6z" />
    @break

    @case('waived')
      <path class="s-waived" d="M6 1l5 5-5 5-5-5z" stroke-width="1.5" />
    @break

    @default
      <circle class="f-pending" cx="6" cy="6" r="2.5" />
  @endswitch
</svg>
@if ($word)
  {{ $outcome }}
@endif
