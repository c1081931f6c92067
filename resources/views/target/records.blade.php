@php($marked = $matching->flatMap(fn($l) => $l->matches())->flatMap(fn($r) => array_keys($r->on))->all())
@if ($going)
  <x-looking :says="$going" target="closest [hx-get]" />
@elseif ($error)
  <div class="note bad" role="alert">{{ $error }}</div>
@elseif ($records)
  <h2>First records in it</h2>
  <div class="scroll-x" tabindex="0" role="region" aria-label="First records">
    <table class="sheet">
      <thead>
        <tr>
          @foreach (array_keys($records[0]) as $name)
            <th @class(['marked' => in_array($name, $marked, true)])>{{ $name }}</th>
          @endforeach
        </tr>
      </thead>
      <tbody>
        @foreach ($records as $record)
          <tr>
            @foreach ($record as $name => $value)
              <td @class(['marked' => in_array($name, $marked, true)])><x-raw :value="$value" /></td>
            @endforeach
          </tr>
        @endforeach
      </tbody>
    </table>
  </div>
@endif
