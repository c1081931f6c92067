<?php

namespace App\View;

use App\Mapping\RuleSheet;
use App\Mapping\Samples;
use App\Mapping\Shelf;
use App\Mapping\Suggestions;
use App\Models\ColumnDecision;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\RuleVersion;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Expressions\Catalogue;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Mapping\OthersPolicy;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\Normaliser;
use Baggage\Core\Reading\Column;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;

/** All that the page with the rules of one load shows. */
final readonly class MappingSheet
{
    public function __construct(private Page $page, private Load $load)
    {
    }

    /** @return array<string, mixed> */
    public function data(Request $request, Shelf $shelf): array
    {
        $checked = CheckOfLoad::data($this->page->migration, $this->page->definitions, $this->load, $this->page->overview->basis);

        return [
            'page' => $this->page,
            'load' => $this->load,
            'loads' => $this->page->loads(),
            'checked' => $checked,
            'problem' => $this->problem(),
            'extracts' => $this->page->overview->extracts,
            'last' => RuleVersion::query()->where('load_id', $this->load->id)->with('user')->latest('id')->first(),
            'suggestions' => Suggestions::of($this->page->definitions, $this->load),
            'words' => RuleSheet::words($this->load),
            'catalogue' => Catalogue::entries(),
            'normalisations' => KeyNormalisation::cases(),
            'policies' => WritePolicy::cases(),
            'gones' => GonePolicy::cases(),
            'others' => OthersPolicy::cases(),
            'normalisers' => Normaliser::cases(),
        ] + $this->fields($request, $checked['check']) + $this->shelf($request, $shelf);
    }

    /** @return array<string, mixed> the lines of the sheet that are shown, tried on the rows asked for */
    private function fields(Request $request, ?LoadCheck $check): array
    {
        $sheet = RuleSheet::of($this->page->definitions, $this->load, $this->rows($request, $check));
        $show = in_array($request->query('show'), ['mapped', 'open'], true) ? (string) $request->query('show') : 'all';
        $fields = RuleSheet::fields($this->load, $show);
        $from = max(0, min($request->integer('from'), count($fields) - 1));

        return [
            'sheet' => $sheet,
            'show' => $show,
            'fields' => $fields,
            'from' => $from,
            'lines' => $sheet->lines($this->page->round, array_slice($fields, $from, RuleSheet::PAGE)),
            'open' => RuleSheet::fields($this->load, 'open'),
            'writable' => array_keys($this->load->entity->described()->writable()),
        ];
    }

    /** @return list<int> */
    private function rows(Request $request, ?LoadCheck $check): array
    {
        $asked = $request->query('rows');
        if ($request->filled('pick')) {
            $picked = Samples::pick(
                $this->load,
                (string) $request->query('pick'),
                $this->page->round,
                $check,
                $request->query('column'),
                (string) $request->query('value', ''),
            );
            $asked = $picked === [] ? $asked : implode(',', $picked);
        }

        return RuleSheet::rows($this->load, $asked);
    }

    /** @return array<string, mixed> the legacy columns, and what was decided about them */
    private function shelf(Request $request, Shelf $shelf): array
    {
        $shown = in_array($request->query('columns'), ['used', 'left'], true)
            ? (string) $request->query('columns') : 'undecided';
        $uses = $shelf->uses($this->load->extract);
        $decided = ColumnDecision::query()
            ->where('extract_id', $this->load->extract_id)
            ->with('user')
            ->get()
            ->keyBy('header');
        $on = $this->columns($shown, $uses, $decided);

        return [
            'columnsShown' => $shown,
            'uses' => $uses,
            'decisions' => $decided,
            'on' => $on,
            'onFrom' => max(0, min($request->integer('shelf'), count($on) - 1)),
        ];
    }

    /**
     * @param  array<int, mixed>  $uses  by position
     * @param  Collection<array-key, ColumnDecision>  $decided  by header
     * @return list<Column>
     */
    private function columns(string $shown, array $uses, Collection $decided): array
    {
        return array_values(array_filter(
            $this->load->extract->tidyColumns()->all,
            fn (Column $c) => match ($shown) {
                'used' => isset($uses[$c->position]),
                'left' => ! isset($uses[$c->position]) && isset($decided[$c->header]),
                default => ! isset($uses[$c->position]) && ! isset($decided[$c->header]),
            },
        ));
    }

    /** Why the load cannot run as it is. */
    private function problem(): ?string
    {
        try {
            $this->page->definitions->mapper($this->load);

            return null;
        } catch (DefinitionError $e) {
            return $e->getMessage();
        }
    }
}
