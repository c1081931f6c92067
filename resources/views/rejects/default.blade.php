<x-layouts.app :page="$page" title="A record for those without a parent">
  <div class="head">
    <div>
      <h1>A {{ strtolower($say->label($parent->name)) }} for those of {{ $load->name }} without one</h1>
      <p>It becomes a row of an extract of its own with a load of its own, so that it stands in ledger, proof and
        back-out
        like all others. Rounds begun afterwards load it; in this one it is nowhere yet.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('rejects', $load->entity->name) }}">Back to Rejects</a>
    </div>
  </div>
  <form class="panel grid gap-2" method="post"
    action="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/default/{{ $field }}">@csrf<x-round
      :$page />
    <div class="stack"><label for="default-key">Its legacy key</label><input id="default-key" name="key" required
        maxlength="100" value="{{ old('key', 'UNKNOWN') }}"></div>
    @foreach ($fields as $name => $f)
      <div class="stack"><label for="default-{{ $name }}">{{ $name }}</label><input
          id="default-{{ $name }}" name="values[{{ $name }}]" @required($f->required)
          value="{{ old("values.$name") }}"> <span
          class="quiet">{{ $f->describe() }}{{ $f->refers ? ', by its key there' : '' }}</span></div>
    @endforeach
    <p><button class="btn main">Make it, and try the rule</button></p>
  </form>
</x-layouts.app>
