<?php

namespace App\Reconciling;

use App\Models\Round;
use App\Models\Take;
use App\Models\TakeState;
use Illuminate\Support\Collection;

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
        $newer = Take::query()
            ->join('round_loads as of', fn ($j) => $j->where('of.round_id', $round->id))
            ->join('takes as own', fn ($j) => $j->on('own.id', '=', 'of.take_id')->on('own.extract_id', '=', 'takes.extract_id'))
            ->join('extracts', 'extracts.id', '=', 'takes.extract_id')
            ->join('sources', 'sources.id', '=', 'extracts.source_id')
            ->where('takes.state', TakeState::Frozen)
            ->whereColumn('takes.number', '>', 'own.number')
            ->orderBy('of.id')
            ->orderBy('takes.number')
            ->get([
                'takes.id', 'takes.extract_id', 'takes.number', 'takes.compared', 'own.number as worked_on', 'extracts.name',
                'sources.code',
            ]);

        return array_values($newer
            ->unique('id')
            ->groupBy('extract_id')
            ->map(fn (Collection $of, int $extract) => [
                'extract' => $extract,
                'name' => "{$of[0]?->getAttribute('code')}/{$of[0]?->getAttribute('name')}",
                'worked_on' => (int) $of[0]?->getAttribute('worked_on'),
                'takes' => array_values($of->map(self::compared(...))->all()),
            ])
            ->all());
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
