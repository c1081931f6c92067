<?php

namespace App\View;

use App\Files\RowRemarks;
use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Ledger\PairBook;
use App\Ledger\WaiverBook;
use App\Models\Load;
use App\Models\Pass;
use App\Models\Take;
use App\Models\TakeState;
use App\Staging\Corrections;
use App\Staging\StagedRows;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Outcome;

/** Collects everything that is known of one row. */
final class Journeys
{
    /** Rows shown that wanted a value of a row. */
    private const REFUSED = 20;

    public function __construct(private readonly Page $page)
    {
    }

    /** @return array<string, mixed>|null */
    public function of(Load $load, int $row): ?array
    {
        $take = $this->page->take($load->id);
        [, $staged] = $take === null ? [0, null] : StagedRows::asRead($take->id, [$row])[0] ?? [0, null];
        if ($staged === null && $take !== null) {
            // It is delivered no more: as it was the last time.
            $take = $this->lastWith($take, $row);
            [, $staged] = StagedRows::asRead($take->id, [$row])[0] ?? [0, null];
        }
        if ($staged === null || $take === null) {
            return null;
        }
        $corrected = (new StagedRows($take->id, $this->page->round?->ended_with))->numbered([$row])[$row] ?? $staged->cells;
        $columns = $take->tidyColumns();
        $recorded = $this->recorded($load, $row);

        return [
            'load' => $load,
            'listed' => $this->page->all()->get($load->id),
            'row' => $row,
            'take' => $take,
            'line' => $staged->line,
            'cells' => $staged->cells,
            'corrected' => $corrected,
            'columns' => $columns,
            'remarks' => RowRemarks::of($take->id, $row),
            'corrections' => Corrections::ofRow($take->id, $row, $this->page->round?->ended_with),
        ] + $this->mapped($load, $take, $row, $recorded['current']) + $recorded;
    }

    /** The newest take before another that has a row; that one where none has. */
    private function lastWith(Take $take, int $row): Take
    {
        $before = Take::query()->where('extract_id', $take->extract_id)->where('number', '<', $take->number)
            ->where('state', TakeState::Frozen)->orderByDesc('number')->get(explode(',', Take::LISTED));
        foreach ($before as $other) {
            if (StagedRows::known($other->id, [$row]) !== []) {
                return $other;
            }
        }

        return $take;
    }

    /**
     * What the rules made of it: those of the pass that gave it its outcome, and the corrections it saw; before that, those there are.
     *
     * @return array{fields: array<string, array<string, mixed>>, problem: string|null}
     */
    private function mapped(Load $load, Take $take, int $row, ?\stdClass $current): array
    {
        $fields = [];
        $pass = $this->pass($current);
        $cells = (new StagedRows($take->id, $pass?->decision))->numbered([$row])[$row] ?? [];
        try {
            $mapper = $pass?->plan === null
                ? $this->page->definitions->mapper($this->page->definitions->one($load), $take->tidyColumns())
                : $pass->plan->version()->mapper($load->id, $take->tidyColumns());
            foreach ($mapper->rules() as $field => $rule) {
                $fields[$field] = ['rule' => $rule->expression, 'value' => $mapper->field($field, $cells)];
            }
        } catch (DefinitionError $e) {
            return ['fields' => $fields, 'problem' => $e->getMessage()];
        }

        return ['fields' => $fields, 'problem' => null];
    }

    /** The pass that gave the row its outcome. */
    private function pass(?\stdClass $current): ?Pass
    {
        return match (true) {
            $current === null || $this->page->round === null => null,
            (int) $current->pass === $this->page->pass?->number => $this->page->pass,
            default => $this->page->round->passes()->where('number', $current->pass)->first(),
        };
    }

    /** @return array<string, mixed> what the ledger has of it, now and before */
    private function recorded(Load $load, int $row): array
    {
        $ledger = $this->page->round === null ? null : new LedgerReader($this->page->round);
        $now = $ledger?->now($load, $row) ?? [];
        $current = collect($now)->where('round_id', $this->page->round?->id)->firstWhere('row_no', $row);

        return [
            'now' => $now,
            'before' => LedgerReader::before($now),
            'current' => $current,
            'waiver' => $current === null || $current->outcome !== Outcome::Waived->value
                || $this->page->round === null
                ? null
                : WaiverBook::about($this->page->round, $load->id, $current->legacy_key, (int) $current->cause_id),
            'refused' => $this->refused($load, $row, $current),
            'links' => $this->page->round === null ? [] : (new Links($this->page->round->laneId()))->of($load, $row),
            'parent' => $ledger === null || $current === null ? null : $this->parent($ledger, $current),
            'beside' => InTheWay::row($this->page, $load, $current->message ?? null),
            'taken' => InTheWay::record($current->message ?? null),
            'pair' => $this->page->round === null || $current === null
                ? null
                : PairBook::about($this->page->round, $load->id, (string) $current->legacy_key),
        ];
    }

    /** @return list<\stdClass> rows that were refused a value because this one has it */
    private function refused(Load $load, int $row, ?\stdClass $current): array
    {
        $causes = $this->page->round === null ? null : new CauseReader($this->page->round->laneId());

        return $causes === null || $current?->target_key === null
            ? []
            : $causes->refusedFor($load->id, $load->name, $current->legacy_key, $row, self::REFUSED);
    }

    /** The line of the parent a held row waits for. */
    private function parent(LedgerReader $ledger, \stdClass $held): ?\stdClass
    {
        return $held->parent_entity === null ? null : $ledger->line(
            (int) $held->parent_space_id,
            $held->parent_key,
        );
    }
}
