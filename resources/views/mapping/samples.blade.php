<td id="samples-{{ $line->field->name }}" aria-live="polite">
  <div class="samples">
    @if ($line->error)<span class="bad raw"
        id="told-{{ $line->field->name }}">{{ $line->error }}</span>
    @elseif ($line->samples === [])
      <span
        class="none">{{ $line->rule?->empty_reason && trim($line->expression) === '' ? 'stays empty' : 'no rule' }}</span>
    @else
      @foreach ($line->samples as $s)
        <span class="sample"><span class="before">
            @forelse ($s['before'] as $b)
            <x-raw :value="$b" /> @empty <span class="raw none">constant</span>
            @endforelse
          </span><span><x-result :value="$s['after']" /></span></span>
      @endforeach
    @endif
  </div>
</td>
