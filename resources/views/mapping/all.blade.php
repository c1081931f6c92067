<x-layouts.app :page="$page" title="Mapping">
<div class="head"><div><h1>Mapping</h1><p>{{ \App\View\Page::count($loads->count(), 'load') }}. Choose an entity on the left to work on its rule sheet.</p></div></div>
<table class="sheet"><thead><tr><th>Load</th><th>Into</th><th>Reads</th><th class="n">Rows</th><th class="n">Fields with a rule</th><th class="n">Left empty</th><th class="n">Without a decision</th><th class="n">Columns undecided</th><th>Policy</th></tr></thead><tbody>
@forelse ($loads as $load)
    @php($fields = $load->entity->described()->writable())
    @php($ruled = $load->rules->whereNotNull('expression')->count())
    @php($empty = $load->rules->whereNotNull('empty_reason')->count())
    @php($undecided = count($shelf->undecided($load->extract)))
    <tr class="hit"><td><a href="{{ $page->url('mapping', $load->entity->name) }}?load={{ $load->id }}">{{ $load->name }}</a></td><td>{{ \App\View\Page::label($load->entity->name) }}</td><td><code>{{ $load->extract->source->code }}</code> {{ $load->extract->name }}</td><td class="n">{{ number_format($load->extract->take?->rows ?? 0) }}</td>
        <td class="n">{{ $ruled }} of {{ count($fields) }}</td><td @class(['n', 'zero' => $empty === 0])>{{ $empty }}</td><td @class(['n', 'zero' => count($fields) - $ruled - $empty === 0])>{{ count($fields) - $ruled - $empty }}</td><td @class(['n', 'zero' => $undecided === 0, 'wait' => $undecided > 0])>{{ $undecided }}</td><td>{{ \Baggage\Core\Loading\WritePolicy::from($load->policy)->label() }}</td></tr>
@empty
    <tr><td colspan="9">No load yet. Choose an entity on the left and say which extract fills it.</td></tr>
@endforelse</tbody></table>
</x-layouts.app>
