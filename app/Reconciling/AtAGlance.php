<?php

namespace App\Reconciling;

use App\Ledger\LedgerReader;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassState;
use App\Models\Round;
use App\Models\RoundLoad;
use Baggage\Core\Reconciling\CountProof;
use Illuminate\Support\Collection;

/** How far the newest rounds of several migrations are, by their tallies. */
final class AtAGlance
{
    private const ROUNDS = 4;

    /**
     * @param  Collection<int, Migration>  $migrations
     * @return array<int, list<array{round: Round, pass: Pass|null, proof: CountProof}>> migration → its newest rounds, the newest first
     */
    public static function of(Collection $migrations): array
    {
        $rounds = Round::query()
            ->whereIn('migration_id', $migrations->pluck('id'))
            ->with('lane')
            ->latest('id')
            ->get()
            ->groupBy('migration_id')
            ->map(fn (Collection $of) => $of->take(self::ROUNDS));
        $all = $rounds->flatten(1);
        $passes = Pass::query()->whereIn('round_id', $all->pluck('id'))->orderBy('id')->get()->groupBy('round_id');
        $feeds = RoundLoad::query()
            ->whereIn('round_id', $all->pluck('id'))
            ->groupBy('round_id')
            ->selectRaw('round_id, SUM(feed_rows) AS feed, SUM(source_rows) AS source')
            ->toBase()
            ->get()
            ->keyBy('round_id');
        $tallies = LedgerReader::ofLanes($all->pluck('lane.id')->filter()->values()->all());
        $glance = fn (Round $r) => self::glance($r, $passes->get($r->id), $feeds->get($r->id), $tallies[(int) $r->lane?->id] ?? []);

        return $rounds->map(fn (Collection $of) => array_values($of->map($glance)->all()))->all();
    }

    /**
     * @param  Collection<int, Pass>|null  $passes
     * @param  array<string, int>  $outcomes
     * @return array{round: Round, pass: Pass|null, proof: CountProof}
     */
    private static function glance(Round $round, ?Collection $passes, ?\stdClass $feeds, array $outcomes): array
    {
        $feed = (int) ($feeds->feed ?? 0);
        // Until the first pass has ended, rows without an outcome are rows it has not come to.
        $first = $passes?->firstWhere('kind', PassKind::First);
        $left = $first?->state === PassState::Finished ? 0 : max(0, $feed - array_sum($outcomes));

        return [
            'round' => $round,
            'pass' => $passes?->last(),
            'proof' => new CountProof((int) ($feeds->source ?? 0), $feed, $outcomes, $left),
        ];
    }
}
