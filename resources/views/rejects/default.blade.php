<x-layouts.app :page="$page" title="A record for those without a parent">
  <div class="head">
    <div>
      <h1>A {{ strtolower($say->label($parent->name)) }} for those of {{ $load->name }} without one</h1>
      <p>It becomes a row of an extract of its own with a load of its own, so that it stands in ledger, proof and
        back-out like all others. Rounds begun afterwards load it; in this one it is nowhere yet.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('rejects', $load->entity->name) }}">Back to Rejects</a>
    </div>
  </div>
  <form class="panel" method="post"
    action="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/default/{{ $field }}">@csrf<x-round
      :$page /><input type="hidden" name="code" value="{{ $code }}">
    <div class="grid grid-cols-[repeat(auto-fill,minmax(14rem,1fr))] gap-x-6 gap-y-3">
      <div class="stack"><label for="default-key">Its legacy key</label><input id="default-key" name="key" required
          maxlength="100" value="{{ old('key', 'UNKNOWN') }}"><span class="quiet">in DEF, where records made here
          are</span>
      </div>
      @foreach ($fields as $name => $f)
        @php($choices = $f->refers === null ? $f->choices() : [])
        <div class="stack"><label for="default-{{ $name }}">{{ $name }}</label>
          @if ($choices && count($choices) <= 100)
            <select id="default-{{ $name }}" name="values[{{ $name }}]" @required($f->required)>
              <option value=""></option>
              @foreach ($choices as $choice)
                <option @selected(old("values.$name") === $choice)>{{ $choice }}</option>
              @endforeach
            </select>
          @else
            <input id="default-{{ $name }}" name="values[{{ $name }}]" @required($f->required)
              value="{{ old("values.$name") }}">
          @endif
          <span class="quiet">{{ $f->describe() }}{{ $f->refers ? ', by its key there' : '' }}</span>
        </div>
      @endforeach
    </div>
    <p class="mt-3"><button class="btn main">Make it, and try the rule</button></p>
  </form>
</x-layouts.app>
