<?php

namespace App\Reconciling;

use App\Models\Round;
use App\Models\Take;
use App\Models\TakeState;

/** Takes that were read since a round took up its own: it does not work on them. */
final class NewerTakes
{
    /**
     * @return list<array{extract: int, name: string, takes: list<array{number: int, against: int, added: int|null, changed: int|null,
     *     gone: int|null}>, worked_on: int}>
     */
    public static function of(Round $round): array
    {
        if ($round->hasEnded()) {
            return [];
        }
        $found = [];
        foreach ($round->roundLoads()->with('take.extract.source')->orderBy('id')->get() as $of) {
            $extract = $of->take->extract;
            $newer = $extract === null ? collect() : $extract
                ->takes()
                ->where('state', TakeState::Frozen)
                ->where('number', '>', $of->take->number)
                ->orderBy('number')
                ->get();
            if ($extract !== null && $newer->isNotEmpty()) {
                $found[$extract->id] = [
                    'extract' => $extract->id,
                    'name' => "{$extract->source?->code}/$extract->name",
                    'worked_on' => $of->take->number,
                    'takes' => array_values($newer->map(self::compared(...))->all()),
                ];
            }
        }

        return array_values($found);
    }

    /** @return array{number: int, against: int, added: int|null, changed: int|null, gone: int|null} */
    private static function compared(Take $take): array
    {
        return [
            'number' => $take->number,
            'against' => (int) ($take->compared['with'] ?? $take->number - 1),
            'added' => $take->compared['added'] ?? null,
            'changed' => $take->compared['changed'] ?? null,
            'gone' => $take->compared['gone'] ?? null,
        ];
    }
}
