<?php

namespace App\Ledger;

use App\Models\Pass;
use App\Models\Round;
use App\Models\RoundLoad;
use Baggage\Core\Loading\Due;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Stage;

/** Causes of a round whose rows may fare otherwise by a definition than by those their passes went by. */
final class DueCauses
{
    private const KEYS_AT_ONCE = 1000;

    /** @var array<int, PlanVersion|null>|null by pass */
    private ?array $plans = null;

    private readonly LedgerCrosswalk $crosswalk;

    /** @param  PlanVersion  $now  what the next pass would go by */
    public function __construct(
        private readonly Round $round,
        private readonly DueBook $book,
        Spaces $spaces,
        private readonly PlanVersion $now,
    ) {
        $this->crosswalk = new LedgerCrosswalk(new LedgerReader($round), $spaces);
    }

    /** @return array<int, Due|null> pass → what changed since */
    public function changes(RoundLoad $of): array
    {
        $this->plans ??= $this->round->passes()->with('plan')->get()
            ->mapWithKeys(fn (Pass $p) => [$p->id => $p->plan?->version()])
            ->all();

        return array_map(fn (?PlanVersion $then) => $then === null ? null : $this->between($then, $of), $this->plans);
    }

    /**
     * @param  array<int, Due|null>  $changes  as changes() gives them
     * @return list<array{int, int, int}> cause, pass, rows
     */
    public function of(RoundLoad $of, array $changes): array
    {
        $due = [];
        foreach ($this->book->leftOut($of->load_id) as $left) {
            $parents = $this->parents($left);
            foreach ($left as $row) {
                $parent = $parents["$row->parent_entity\x1F$row->parent_space"][$row->parent_key] ?? null;
                if (
                    ($row->parent_entity !== null && Due::byParent($row->code, $parent))
                    || ($row->outcome !== 'held' && self::byRule($changes, $row))
                ) {
                    $due["$row->cause_id $row->pass_id"] ??= [(int) $row->cause_id, (int) $row->pass_id, 0];
                    $due["$row->cause_id $row->pass_id"][2] += (int) $row->n;
                }
            }
        }

        return array_values($due);
    }

    /**
     * Causes whose rows are due by this definition and not by another: what is new about it.
     *
     * @param  self  $other  of the same round
     * @return list<int>
     */
    public function newBeside(self $other, RoundLoad $of): array
    {
        [$mine, $theirs] = [$this->changes($of), $other->changes($of)];
        $new = [];
        foreach ($this->book->leftOut($of->load_id, false) as $left) {
            foreach ($left as $row) {
                if ($row->outcome !== 'held' && self::byRule($mine, $row) && ! self::byRule($theirs, $row)) {
                    $new[(int) $row->cause_id] = true;
                }
            }
        }

        return array_keys($new);
    }

    /** @param  array<int, Due|null>  $changes  pass → what changed since */
    private static function byRule(array $changes, \stdClass $row): bool
    {
        return $changes[$row->pass_id]?->byRule(Stage::from($row->stage), $row->code, $row->field, $row->value) ?? false;
    }

    private function between(PlanVersion $then, RoundLoad $of): Due
    {
        return new Due($then, self::used($then, $of), $this->now, self::used($this->now, $of), $of->load_id);
    }

    /** @return array<string, list<string>> field → code crosswalks its rule uses; those of the scope under '' */
    private static function used(PlanVersion $plan, RoundLoad $of): array
    {
        try {
            $mapper = $plan->mapper($of->load_id, $of->take->tidyColumns());

            return ['' => $mapper->scope()->codes ?? []] + array_map(fn ($rule) => $rule->codes, $mapper->rules());
        } catch (DefinitionError) {
            return [];
        }
    }

    /**
     * @param  list<\stdClass>  $left
     * @return array<string, array<array-key, KeyState>> entity and key space → key → what is known of it
     */
    private function parents(array $left): array
    {
        $keys = $found = [];
        foreach ($left as $row) {
            if ($row->parent_entity !== null) {
                $keys["$row->parent_entity\x1F$row->parent_space"][(string) $row->parent_key] = true;
            }
        }
        foreach ($keys as $group => $all) {
            [$entity, $space] = explode("\x1F", $group);
            foreach (array_chunk(array_map(strval(...), array_keys($all)), self::KEYS_AT_ONCE) as $some) {
                $found[$group] = ($found[$group] ?? []) + $this->crosswalk->states($entity, $space, $some);
            }
        }

        return $found;
    }
}
