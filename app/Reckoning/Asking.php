<?php

namespace App\Reckoning;

use App\Ledger\LedgerReader;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Reckoning;
use App\Models\Round;
use App\Models\Work;
use App\Models\WorkKind;
use App\Models\WorkState;
use Baggage\Core\Reconciling\SampleSize;
use Baggage\Core\Rows\Outcome;

/** What somebody asks a worker to count, before it does. */
final class Asking
{
    /** Share of records that may be wrong and yet be missed, where nothing is said. */
    private const SHARE = 0.01;

    private const LARGEST_SEED = 999_999_999;

    /** Records of a round that can be compared, by its tallies. */
    public static function records(Round $round): int
    {
        [, $tallies] = LedgerReader::loadsWithTallies($round);
        $updating = Load::query()->whereIn('id', array_keys($tallies))->get(['id', 'policy'])
            ->filter(fn (Load $l) => $l->policy->updates())->pluck('id')->all();
        $records = 0;
        foreach ($tallies as $load => $of) {
            $records += ($of[Outcome::Loaded->value] ?? 0) + ($of[Outcome::Updated->value] ?? 0)
                + (in_array($load, $updating, true) ? $of[Outcome::Unchanged->value] ?? 0 : 0);
        }

        return $records;
    }

    /**
     * A sample of the records of a round: of a stated size, or as large as makes that sure.
     *
     * @param  float|null  $confidence  0 to 1
     * @param  float|null  $share  0 to 1, of records that may be wrong
     * @param  int|null  $seed  null: any
     * @return array{sample: int, seed: int, confidence: float, share: float} as Reckonings::now() takes it
     */
    public static function sample(Round $round, ?int $size, ?float $confidence, ?float $share, ?int $seed): array
    {
        [$confidence, $share] = [$confidence ?? Reckoned::CONFIDENCE, $share ?? self::SHARE];

        return [
            'sample' => $size ?? max(1, SampleSize::of(self::records($round), $confidence, $share)),
            'seed' => $seed ?? random_int(1, self::LARGEST_SEED),
            'confidence' => $confidence,
            'share' => $share,
        ];
    }

    /**
     * @param  array<string, mixed>|null  $compare  as Reckonings::now() takes it
     * @param  int  $rows  it goes through
     *
     * @throws \DomainException why it cannot be counted now
     */
    public static function work(Migration $migration, Round $round, bool $totals, ?array $compare, int $rows): void
    {
        $title = $compare === null ? 'Counting control totals' : 'Comparing records';
        ReckonRound::dispatch(self::ask($migration, $round, $title, ['totals' => $totals, 'compare' => $compare], $rows)->id);
    }

    /**
     * The rows of one group of a total that was counted.
     *
     * @param  int  $rows  it goes through
     *
     * @throws \DomainException why they cannot be listed now
     */
    public static function group(Migration $migration, Reckoning $reckoning, int $total, string $group, int $rows): void
    {
        $round = $reckoning->round()->firstOrFail();
        $given = ['reckoning' => $reckoning->id, 'total' => $total, 'group' => $group];
        $title = 'Listing rows of '.($group === '' ? 'no group' : $group);
        ListGroup::dispatch(self::ask($migration, $round, $title, $given, $rows)->id);
    }

    /** @param  array<string, mixed>  $given */
    private static function ask(Migration $migration, Round $round, string $title, array $given, int $rows): Work
    {
        $isGoing = Work::query()->where('migration_id', $migration->id)->where('kind', WorkKind::Reckon)
            ->whereIn('state', [WorkState::Queued, WorkState::Running])->get()
            ->contains(fn (Work $w) => $w->given['round'] === $round->id);
        if ($isGoing) {
            throw new \DomainException('It is being counted already. Wait until it is done, or stop it.');
        }
        Reckonings::mayReckon($round);

        return Work::ask($migration, WorkKind::Reckon, $title, ['round' => $round->id] + $given, $rows);
    }
}
