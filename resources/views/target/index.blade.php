<x-layouts.app :page="$page" title="Target">
<div class="head"><div><h1>{{ $page->entity ? \App\View\Page::label($page->entity->name) : 'The new application: '.$page->migration->target_name }}</h1>
    <p>@if ($target)Read from the database <code>{{ $target->resolved('database') }}</code> at {{ $target->resolved('host') }}:{{ $target->resolved('port') }}, connection "{{ $target->name }}".@endif @if ($page->entity && isset($counts[$page->entity->name])) It holds {{ \App\View\Page::count($counts[$page->entity->name], 'record') }} now.@endif</p></div>
    @can('work', $page->migration)<form class="actions" method="post" action="/m/{{ $page->migration->id }}/target/read">@csrf<button class="btn {{ $schema->entities ? '' : 'main' }}">Read the schema {{ $schema->entities ? 'again' : '' }}</button></form>@endcan</div>
@if ($error)<div class="note bad" role="alert">{{ $error }}</div>@endif
@if ($page->entity)
    @php($described = $page->entity->described())
    <table class="sheet"><thead><tr><th>Field</th><th>Type</th><th>Must be filled</th><th>Refers to</th><th>Unique</th><th>Allowed values, default</th></tr></thead><tbody>
    @foreach ($described->fields as $field)
        <tr><td><b>{{ $field->name }}</b></td><td>{{ $field->type->label() }}</td><td>{{ $field->assigned ? 'given by the target' : ($field->required ? 'required' : '') }}</td><td>{{ $field->refers }}</td>
            <td>{{ collect($described->uniques)->filter(fn ($u) => in_array($field->name, $u))->map(fn ($u) => count($u) === 1 ? 'alone' : 'with '.implode(', ', array_diff($u, [$field->name])))->implode('; ') }}{{ $field->name === $described->key ? 'the target key' : '' }}</td>
            <td>@if ($field->type instanceof \Baggage\Core\Targets\Types\ChoiceType)<code>{{ implode(', ', $field->type->values) }}</code>@endif{{ $field->default === null ? '' : "default $field->default" }}</td></tr>
    @endforeach</tbody></table>
    @if ($records)
        <h2>First records in it</h2>
        <div class="scroll-x" tabindex="0" role="region" aria-label="First records"><table class="sheet"><thead><tr>@foreach (array_keys($records[0]) as $name)<th>{{ $name }}</th>@endforeach</tr></thead><tbody>@foreach ($records as $record)<tr>@foreach ($record as $value)<td><x-raw :value="$value"/></td>@endforeach</tr>@endforeach</tbody></table></div>
    @endif
@else
    <table class="sheet"><thead><tr><th>Entity</th><th class="n">Records now</th><th class="n">Before the round</th><th class="n">Fields</th><th class="n">Required</th><th>Refers to</th><th>Unique</th><th>Loads</th></tr></thead><tbody>
    @forelse ($schema->entities as $entity)
        @php($loads = $page->orderError ? collect() : $page->definitions->loads()->filter(fn ($l) => $l->entity->name === $entity->name))
        <tr class="hit"><td><a href="{{ $page->url('target', $entity->name) }}">{{ $entity->label() }}</a></td><td class="n">{{ isset($counts[$entity->name]) ? number_format($counts[$entity->name]) : '' }}</td><td class="n">{{ isset($page->round?->target_before[$entity->name]) ? number_format($page->round->target_before[$entity->name]) : '' }}</td>
            <td class="n">{{ count($entity->fields) }}</td><td class="n">{{ count(array_filter($entity->fields, fn ($f) => $f->required)) }}</td><td>{{ implode(', ', array_map(fn ($f) => $f->name === $f->refers ? $f->name : "$f->refers ($f->name)", $entity->references())) }}</td>
            <td>{{ implode('; ', array_map(fn ($u) => implode(' with ', $u), $entity->uniques)) }}</td><td>@if ($loads->isEmpty())<a class="linkish" href="{{ $page->url('mapping', $entity->name) }}">Map it</a>@else{{ $loads->pluck('name')->implode(', ') }}@endif</td></tr>
    @empty
        <tr><td colspan="8">Nothing is known of the target yet. Read its schema.</td></tr>
    @endforelse</tbody></table>
@endif
</x-layouts.app>
