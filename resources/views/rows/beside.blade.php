<x-layouts.app :page="$page" title="Two rows beside each other">
  <div class="head">
    <div>
      <h1>Row {{ number_format($a['row']) }} beside row {{ number_format($b['row']) }}</h1>
      <p>
        @foreach ([$a, $b] as $j)
          @php($line = (object) ['load_id' => $j['load']->id, 'row_no' => $j['row']])
          @php($target = $j['current']->target_key ?? null)
          <x-tag :space="$j['listed']?->space" :legacy="$j['current']->legacy_key ?? ''" :$target :href="$page->journey($line)" />
          {{ $j['load']->name }}, take {{ $j['take']->number }}, line {{ number_format($j['line']) }}
          @if ($j['current'])
            <x-outcome :outcome="$j['current']->outcome" />
          @endif
          @if ($loop->first)
            <span class="quiet">and</span>
          @endif
        @endforeach
      </p>
    </div>
    <div class="actions"><a class="btn" href="{{ url()->previous() }}">Back</a></div>
  </div>
  @foreach ($parts as $title => $lines)
    <h2>{{ $title }}</h2>
    <table class="sheet" aria-label="{{ $title }}">
      <thead>
        <tr>
          <th>{{ $loop->first ? 'Column' : 'Field' }}</th>
          <th>Row {{ number_format($a['row']) }}</th>
          <th>Row {{ number_format($b['row']) }}</th>
        </tr>
      </thead>
      <tbody>
        @foreach ($lines as $name => [$left, $right])
          <tr @class(['differs' => $left != $right])>
            <td>{{ $name }} @if ($left != $right)
                <small class="quiet">differs</small>
              @endif
            </td>
            <td>
              @if ($loop->parent->first)
                <x-raw :value="$left" />
              @else
                <x-result :value="$left" />
              @endif
            </td>
            <td>
              @if ($loop->parent->first)
                <x-raw :value="$right" />
              @else
                <x-result :value="$right" />
              @endif
            </td>
          </tr>
        @endforeach
      </tbody>
    </table>
  @endforeach
</x-layouts.app>
