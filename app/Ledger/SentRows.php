<?php

namespace App\Ledger;

use App\Models\Pass;
use App\Models\PassLoad;
use App\Models\Round;
use App\Models\Take;
use App\Staging\Corrections;
use App\Staging\StagedRows;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Rows\Journey;

/** The records rows sent, made again by the plan and the decisions of the pass that sent them. */
final class SentRows
{
    /** Parents kept in memory between batches, per entity and key space. */
    private const PARENTS = 30_000;

    /** @var array<int, array{Pass, PlanVersion}> by pass */
    private array $plans = [];

    /** @var array<string, array{Mapper, ParentResolver}|null> by pass and load */
    private array $makers = [];

    /** @var array<string, bool> by pass and load */
    private array $asNow = [];

    /** @var array<string, Take> by pass and load */
    private array $takes = [];

    private function __construct(private readonly Round $round, private readonly SentCrosswalk $crosswalk)
    {
    }

    public static function of(Round $round, Spaces $spaces): self
    {
        return new self($round, new SentCrosswalk(new LedgerCrosswalk(new LedgerReader($round), $spaces)));
    }

    /**
     * @param  array<int, int>  $passes  row → its pass
     * @param  array<int, list<string|null>>  $known  rows of the take of $progress as they count now, where they are at hand
     * @return array<int, Journey> row → what it became; a row whose rules cannot be used any more is left out
     */
    public function journeys(PassLoad $progress, array $passes, array $known = []): array
    {
        $found = [];
        foreach (array_unique($passes) as $pass) {
            $maker = $this->maker($pass, $progress);
            if ($maker === null) {
                continue;
            }
            [$mapper, $parents] = $maker;
            $of = array_keys($passes, $pass, true);
            $rows = $known !== [] && $this->isAsNow($pass, $progress)
                ? array_intersect_key($known, array_flip($of))
                : (new StagedRows($this->take($pass, $progress)->id, $this->plan($pass)[0]->decision))->numbered($of);
            $journeys = [];
            foreach ($rows as $row => $cells) {
                $journeys[] = $mapper->map($row, $cells);
            }
            $parents->resolve($journeys);
            $this->match($pass, $progress->load_id, $journeys);
            $found += array_column(array_filter($journeys, fn (Journey $j) => $j->isOpen()), null, 'row');
        }

        return $found;
    }

    /** @param  list<Journey>  $journeys */
    private function match(int $pass, int $load, array $journeys): void
    {
        $rules = $this->plan($pass)[1]->load($load)->matches;
        foreach ($rules === [] ? [] : $journeys as $journey) {
            foreach ($journey->isOpen() ? $rules : [] as $rule) {
                $key = $rule->key($journey->values);
                $key === null ?: $journey->matchKeys[] = $key;
            }
        }
    }

    /** Whether a pass read what there is now. */
    private function isAsNow(int $pass, PassLoad $progress): bool
    {
        return $this->asNow["$pass $progress->load_id"] ??= $this->take($pass, $progress)->id === $progress->take_id
            && ! Corrections::hasSince($progress->take_id, $this->plan($pass)[0]->decision);
    }

    /** The take a pass read. */
    private function take(int $pass, PassLoad $progress): Take
    {
        return $this->takes["$pass $progress->load_id"] ??= PassLoad::query()->where('pass_id', $pass)
            ->where('load_id', $progress->load_id)->with('take')->first()->take ?? $progress->take;
    }

    /** @return array{Pass, PlanVersion} */
    private function plan(int $pass): array
    {
        if (! isset($this->plans[$pass])) {
            $of = $this->round->passes()->with('plan')->findOrFail($pass);
            $this->plans[$pass] = [$of, $of->plan->version()];
        }

        return $this->plans[$pass];
    }

    /** @return array{Mapper, ParentResolver}|null */
    private function maker(int $pass, PassLoad $progress): ?array
    {
        $of = "$pass $progress->load_id";
        if (! array_key_exists($of, $this->makers)) {
            $plan = $this->plan($pass)[1];
            try {
                $load = $plan->load($progress->load_id);
                $deferred = $plan->order()->deferredFields($load->entity->name);
                $this->makers[$of] = [
                    $plan->mapper($load->id, $this->take($pass, $progress)->tidyColumns()),
                    new ParentResolver($load->entity, $this->crosswalk, $plan->normalisations(), $deferred, self::PARENTS),
                ];
            } catch (DefinitionError) {
                $this->makers[$of] = null;
            }
        }

        return $this->makers[$of];
    }
}
