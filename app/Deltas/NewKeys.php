<?php

namespace App\Deltas;

use App\Ledger\KeyChanges;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Models\Take;
use App\Models\TakeState;
use App\Staging\StagedRows;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\KeyReader;
use Baggage\Core\Mapping\LoadDefinition;

/**
 * Where the legacy key of a load is stated another way than when its rows were worked on, all its rows get their new keys before a pass
 * does anything else: from the cells of the take the round works on, else of another that has the row and the columns of the key. A row no
 * take has a new key of keeps the one it had.
 */
final readonly class NewKeys
{
    private const STRETCH = 20_000;

    private function __construct(private Pass $pass, private KeyChanges $changes)
    {
    }

    /** @throws KeysRefused where two rows would have one key, or one none */
    public static function give(Pass $pass, PlanVersion $plan): void
    {
        $loads = $pass->has_new_keys ? [] : self::stated($pass->round, $plan, $pass->id);
        if ($loads === []) {
            return;
        }
        $changes = new KeyChanges($pass->id, $pass->lane_id);
        $keys = new self($pass, $changes);
        $changes->forget();
        foreach ($loads as $load) {
            $keys->load($load);
        }
        $conflict = $changes->conflict();
        if ($conflict !== null) {
            $changes->forget();
            throw KeysRefused::by($conflict);
        }
        $changes->apply();
        $pass->refresh();
    }

    /**
     * Loads whose legacy key a plan states another way than the last pass of a round went by.
     *
     * @param  int|null  $before  the pass that is meant to follow; null for one that is not there yet
     * @return list<LoadDefinition>
     */
    public static function stated(Round $round, PlanVersion $plan, ?int $before = null): array
    {
        $last = $round->passes()->where('kind', '<>', PassKind::BackOut)->where('is_prepared', true)->whereNull('backed_out_by')
            ->when($before !== null, fn ($q) => $q->where('id', '<', $before))->with('plan')->latest('id')->first();
        $then = array_column($last?->plan?->version()->loads ?? [], null, 'id');
        $how = fn (LoadDefinition $l) => [$l->keyColumns, $l->normalisation];

        return array_values(array_filter(
            $plan->loads,
            fn (LoadDefinition $l) => isset($then[$l->id]) && $how($then[$l->id]) !== $how($l),
        ));
    }

    private function load(LoadDefinition $load): void
    {
        $of = $this->pass->round->roundLoads()->where('load_id', $load->id)->with('take')->firstOrFail();
        $takes = self::takes($load, $of);
        for ($after = 0, $last = $this->changes->last($load->id); $after < $last; $after += self::STRETCH) {
            $lines = $this->changes->lines($load->id, $after, $after + self::STRETCH);
            $keys = [];
            foreach ($takes as [$take, $reader]) {
                $wanted = array_keys(array_diff_key($lines, $keys));
                $cells = $wanted === [] ? [] : (new StagedRows($take->id, $this->pass->decision))->numbered($wanted);
                foreach ($cells as $row => $of) {
                    $keys[$row] = [$lines[$row][0], $reader->legacyKey($of), $lines[$row][1]];
                }
            }
            $this->changes->put($load->id, array_filter($keys, fn (array $key) => $key[0] !== $key[1]));
        }
    }

    /** @return list<array{Take, KeyReader}> takes with the columns of the key: that of the round, older ones, newer ones */
    private static function takes(LoadDefinition $load, RoundLoad $of): array
    {
        $all = Take::query()->where('extract_id', $of->take->extract_id)->where('state', TakeState::Frozen)
            ->where(fn ($q) => $q->whereNotNull('last_row')->orWhere('id', $of->take_id))->get()
            ->sortBy(fn (Take $t) => $t->number <= $of->take->number ? [0, -$t->number] : [1, $t->number]);
        $found = [];
        foreach ($all as $take) {
            try {
                $found[] = [$take, KeyReader::of($load, $take->tidyColumns())];
            } catch (DefinitionError) {
                // It came before the column did, or after it went.
            }
        }

        return $found;
    }
}
