<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Decisions\Following;
use App\Decisions\Numbers;
use App\Ledger\DueBook;
use App\Ledger\LedgerCrosswalk;
use App\Ledger\LedgerReader;
use App\Ledger\Spaces;
use App\Models\Correction;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\NamedLock;
use Baggage\Core\Loading\Due;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Stage;

/** Works out which rows are due in the rounds of a migration that have not ended, and finds the rows of corrections in newer takes. */
final class WorkOutDue extends Job
{
    private const KEYS_AT_ONCE = 1000;

    public int $tries = self::AGAIN;

    public function __construct(public readonly int $migration)
    {
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): int
    {
        return $this->migration;
    }

    public function handle(): void
    {
        $migration = Migration::query()->find($this->migration);
        if ($migration === null) {
            return;
        }
        $upto = Numbers::last($migration->id);
        foreach ($migration->rounds()->whereNull('ended_as')->whereHas('passes')->with('lane')->get() as $round) {
            if ($round->lane !== null && $round->lane->due_upto < $upto && ! $round->latestPass()?->isGoing()) {
                $definitions = new Definitions($migration, $round->parameters ?? []);
                self::inRound($round, $definitions->version(), $upto);
            }
        }
        $corrected = Correction::query()->whereHas('extract.source', fn ($q) => $q->where('migration_id', $migration->id));
        foreach (Extract::query()->whereIn('id', $corrected->select('extract_id'))->with('take')->get() as $extract) {
            if ($extract->take !== null) {
                Following::complete($extract->take);
            }
        }
    }

    /** @param  PlanVersion  $now  what the next pass would go by */
    public static function inRound(Round $round, PlanVersion $now, int $upto): void
    {
        NamedLock::of("due:{$round->laneId()}")->during(function () use ($round, $now, $upto) {
            $spaces = Spaces::of($round->migration()->firstOrFail());
            $book = new DueBook($round->laneId());
            $plans = $round->passes()->with('plan')->get()->mapWithKeys(fn (Pass $p) => [$p->id => $p->plan?->version()])->all();
            foreach ($round->roundLoads()->with('take')->get() as $of) {
                Following::complete($of->take);
                $changes = array_map(fn (?PlanVersion $then) => $then === null ? null : self::between($then, $now, $of), $plans);
                $causes = self::dueCauses($book->leftOut($of->load_id), $changes, new LedgerCrosswalk(new LedgerReader($round), $spaces));
                $stale = array_filter($changes, fn (?Due $d) => $d?->isStale() ?? false);
                $byRule = $stale === [] ? 0 : array_sum(array_intersect_key($book->standing($of->load_id), $stale));
                $book->put($of->load_id, $of->take_id, $causes, $byRule);
            }
            $round->lane()->update(['due_upto' => $upto]);
            if ($round->refresh()->hasEnded()) {
                // Somebody ended it meanwhile.
                $book->forget();
            }
        }, 60);
    }

    private static function between(PlanVersion $then, PlanVersion $now, RoundLoad $of): Due
    {
        return new Due($then, self::used($then, $of), $now, self::used($now, $of), $of->load_id);
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
     * @param  list<\stdClass>  $left  of DueBook::leftOut
     * @param  array<int, Due|null>  $changes  pass → what changed since
     * @return list<array{int, int, int}> cause, pass, rows
     */
    private static function dueCauses(array $left, array $changes, LedgerCrosswalk $crosswalk): array
    {
        $parents = self::parents($left, $crosswalk);
        $due = [];
        foreach ($left as $row) {
            $parent = $parents["$row->parent_entity\x1F$row->parent_space"][$row->parent_key] ?? null;
            if (
                ($row->parent_entity !== null && Due::byParent($row->code, $parent))
                || ($row->outcome !== 'held'
                    && $changes[$row->pass_id]?->byRule(Stage::from($row->stage), $row->code, $row->field, $row->value))
            ) {
                $due["$row->cause_id $row->pass_id"] ??= [(int) $row->cause_id, (int) $row->pass_id, 0];
                $due["$row->cause_id $row->pass_id"][2] += (int) $row->n;
            }
        }

        return array_values($due);
    }

    /**
     * @param  list<\stdClass>  $left
     * @return array<string, array<array-key, KeyState>> entity and key space → key → what is known of it
     */
    private static function parents(array $left, LedgerCrosswalk $crosswalk): array
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
                $found[$group] = ($found[$group] ?? []) + $crosswalk->states($entity, $space, $some);
            }
        }

        return $found;
    }
}
