<?php

namespace App\Deltas;

use App\Models\LoadState;
use App\Models\Pass;
use App\Models\RoundLoad;
use App\Models\Take;
use App\Models\TakeState;
use Baggage\Core\Loading\PlanVersion;
use Illuminate\Support\Collection;

/** What a delta is about, and whether there can be one. */
final class DeltaLoads
{
    /**
     * The loads of a delta, each with the take that counts now. How many rows it is about is known when it has begun.
     *
     * @param  Collection<int, RoundLoad>  $loads  by load
     * @param  list<int>  $without
     */
    public static function give(Pass $pass, PlanVersion $version, Collection $loads, array $without, Delta $delta): void
    {
        $waves = $version->order()->waves;
        foreach ($version->loads as $load) {
            $of = $loads->firstOrFail('load_id', $load->id);
            $isOut = in_array($load->id, $without, true);
            $newest = $isOut || $delta->keepsTakes ? $of->take : $of->ofLoad->extract->take ?? $of->take;
            self::follow($of->take, $newest);
            $pass->passLoads()->create([
                'load_id' => $load->id,
                'take_id' => $newest->id,
                'from_take_id' => $of->take_id,
                'wave' => $waves[$load->entity->name],
                'state' => $isOut ? LoadState::LeftOut : LoadState::Waiting,
                'last_row' => max($of->take->lastRow(), $newest->lastRow()),
            ]);
        }
    }

    /**
     * Takes that were frozen before rows kept their numbers say nothing of which row is which.
     *
     * @throws \DomainException
     */
    public static function follow(Take $from, Take $to): void
    {
        $old = Take::query()
            ->where('extract_id', $from->extract_id)
            ->where('state', TakeState::Frozen)
            ->whereBetween('number', [min($from->number, $to->number) + 1, max($from->number, $to->number)])
            ->whereNull('last_row')
            ->first();
        if ($old !== null) {
            $name = $old->extract()->firstOrFail()->name;
            throw new \DomainException("Take $old->number of $name was frozen by a version that numbered its rows anew. "
                .'Read the file again, and run the delta then.');
        }
    }
}
