<x-layouts.app :page="$page" title="Crosswalks">
@php($m = $page->migration)
<div class="head"><div><h1>Crosswalks</h1><p>Code crosswalks turn old values into new ones; the key crosswalk is built by loading and knows what every legacy key became.</p></div></div>
@foreach ($codes as $code)
    @php($c = $code['model'])
    @php($missing = array_filter($code['values'], fn ($v) => ! $v['mapped']))
    <h2 id="code-{{ $c->id }}">{{ $c->name }}: {{ $missing ? \App\View\Page::count(count($missing), 'old value').' without a new one, in '.number_format(array_sum(array_column($missing, 'rows'))).' rows' : 'every old value has a new one' }}</h2>
    <p class="quiet mb-1">@if ($code['uses'])Used by {{ collect($code['uses'])->map(fn ($u) => "{$u['load']->name}, {$u['field']}")->implode('; ') }}.@else No rule uses it yet. Write <code>code('{{ $c->name }}', column)</code>.@endif</p>
    @if ($code['allowed'])<datalist id="allowed-{{ $c->id }}">@foreach ($code['allowed'] as $value)<option value="{{ $value }}">@endforeach</datalist>@endif
    <table class="sheet"><thead><tr><th>Old value</th><th class="n">Rows</th><th>New value</th><th>State</th></tr></thead><tbody>
    @foreach ($code['values'] as $i => $v)
        <tr><td><x-raw :value="$v['old']"/></td><td @class(['n', 'zero' => $v['rows'] === 0])>{{ number_format($v['rows']) }}</td>
            <td>@can('repair', $m)<form class="row" id="entry-{{ $c->id }}-{{ $i }}" method="post" action="/m/{{ $m->id }}/crosswalks/codes/{{ $c->id }}">@csrf<input type="hidden" name="old" value="{{ $v['old'] }}"><input name="new" value="{{ $v['new'] }}" aria-label="New value of {{ $v['old'] }}" @if ($code['allowed']) list="allowed-{{ $c->id }}" @endif placeholder="{{ $v['mapped'] ? 'stays empty' : 'none yet' }}"><label class="row"><input type="checkbox" name="empty" value="1" @checked($v['mapped'] && $v['new'] === null)> stays empty</label><button class="btn small">Keep</button></form>@else{{ $v['new'] ?? ($v['mapped'] ? 'stays empty' : '') }}@endcan</td>
            <td>@if (! $v['mapped'])<span class="wait">unmapped</span>@elseif ($v['rows'] === 0)<span class="quiet">not used by any row</span>@endif</td></tr>
    @endforeach
    @can('repair', $m)<tr><td colspan="4"><form class="row" method="post" action="/m/{{ $m->id }}/crosswalks/codes/{{ $c->id }}">@csrf<label for="old-{{ $c->id }}">Another old value</label><input id="old-{{ $c->id }}" name="old" required><label for="newv-{{ $c->id }}">becomes</label><input id="newv-{{ $c->id }}" name="new" @if ($code['allowed']) list="allowed-{{ $c->id }}" @endif><label class="row"><input type="checkbox" name="empty" value="1"> stays empty</label><button class="btn small">Add</button></form></td></tr>@endcan
    </tbody></table>
@endforeach
@can('work', $m)<form class="panel row mt-3" method="post" action="/m/{{ $m->id }}/crosswalks/codes">@csrf<label for="crosswalk-name">New code crosswalk</label><input id="crosswalk-name" name="name" required maxlength="100"><button class="btn small">Add it</button></form>@endcan
<h2 id="keys">Key crosswalk{{ $page->entity ? ' of '.\App\View\Page::label($page->entity->name) : '' }}</h2>
<form class="row mb-2" action="{{ $page->url('crosswalks', $page->entity?->name) }}#keys"><label for="find-key">Legacy key (its beginning) or new key (whole)</label><input id="find-key" name="key" value="{{ $q }}"><button class="btn small">Find</button></form>
<table class="sheet"><thead><tr><th>Key</th><th>Entity</th><th>Load</th><th class="n">Row</th><th>Outcome</th></tr></thead><tbody>
@forelse ($keys['rows'] as $k)
    <tr class="hit"><td><x-tag :source="$k->source" :legacy="$k->legacy_key" :target="$k->target_key" :href="'/m/'.$m->id.'/rows/'.$k->load_id.'/'.$k->row_no"/></td><td>{{ \App\View\Page::label($k->entity) }}</td><td>{{ $k->load_name }}</td><td class="n">{{ number_format($k->row_no) }}</td><td><x-outcome :outcome="$k->outcome"/></td></tr>
@empty
    <tr><td colspan="5">{{ $keys['asked'] ? 'No key of this round begins so, and no new key is this.' : 'Loading fills it.' }}</td></tr>
@endforelse</tbody></table>
@if ($keys['more'])<p class="quiet mt-1">The first {{ count($keys['rows']) }}. Search to see others.</p>@endif
</x-layouts.app>
