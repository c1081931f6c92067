<?php

namespace App\Reconciling;

use App\Models\Round;
use Baggage\Core\Reconciling\CountProof;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;

/** Keeps what was counted of each round, and when. */
final class CountBook
{
    private const PROOF = [
        'sourceRows', 'feedRows', 'outcomes', 'notReached', 'targetBefore', 'targetAfter', 'otherOrigin', 'made', 'removed',
        'statedRows',
    ];

    /** Has it counted by a worker; nothing of an ended round is counted any more. */
    public static function ask(Round $round): void
    {
        if ($round->hasEnded()) {
            return;
        }
        DB::table('counts')->upsert(
            [['round_id' => $round->id, 'state' => Counted::ASKED, 'asked_at' => now()->format('Y-m-d H:i:s.v')]],
            ['round_id'],
            ['state', 'asked_at'],
        );
        CountRound::dispatch($round->id);
    }

    /**
     * Counts it here and now.
     *
     * @return array<string, CountProof> entity → proof, with what the target holds
     */
    public static function now(Round $round): array
    {
        $asked = now()->format('Y-m-d H:i:s.v');
        DB::table('counts')->upsert(
            [['round_id' => $round->id, 'state' => Counted::ASKED, 'asked_at' => $asked]],
            ['round_id'],
            ['state', 'asked_at'],
        );

        return CountRound::count($round, $asked);
    }

    public static function of(Round $round): ?Counted
    {
        $found = DB::table('counts')->where('round_id', $round->id)->first();
        if ($found === null) {
            return null;
        }
        $of = json_decode($found->figures ?? '[]', true);

        return new Counted(
            $found->state,
            $found->counted_at === null ? null : CarbonImmutable::parse($found->counted_at),
            array_map(self::proof(...), $of['loads'] ?? []),
            array_map(self::proof(...), $of['entities'] ?? []),
            $of['links'] ?? [],
            array_map(fn (array $c) => (object) $c, $of['to_confirm'] ?? []),
            $of['lost'] ?? [],
            $of['gaps'] ?? [],
            $of['target_error'] ?? null,
            $found->error,
        );
    }

    /** When it was asked for last; null when nobody waits for it. */
    public static function asked(int $round): ?string
    {
        return DB::table('counts')->where('round_id', $round)->where('state', Counted::ASKED)->value('asked_at');
    }

    /** @return list<int> rounds that wait to be counted */
    public static function waiting(): array
    {
        return DB::table('counts')->where('state', Counted::ASKED)->pluck('round_id')->map(fn ($id) => (int) $id)->all();
    }

    /**
     * @param  string|null  $asked  when it was asked for; where somebody asked again since, that is still to come
     * @param  array<int, CountProof>  $loads  by load
     * @param  array<string, CountProof>  $entities
     * @param  array<string, int>  $links
     * @param  list<\stdClass>  $toConfirm
     * @param  array<int, list<int>>  $lost  of GapFinder::lost
     * @param  array<string, array{gone: list<array{int, int, string}>, foreign: list<string>, before: int}>  $gaps  of GapFinder::gaps
     */
    public static function keep(
        int $round,
        ?string $asked,
        array $loads,
        array $entities,
        array $links,
        array $toConfirm,
        array $lost,
        array $gaps,
        ?string $targetError,
    ): void {
        $lines = fn (array $proofs) => array_map(fn (CountProof $p) => array_map(fn (string $f) => $p->$f, self::PROOF), $proofs);
        DB::table('counts')->where('round_id', $round)->update([
            'figures' => json_encode([
                'loads' => $lines($loads),
                'entities' => $lines($entities),
                'links' => $links,
                'to_confirm' => $toConfirm,
                'lost' => $lost,
                'gaps' => $gaps,
                'target_error' => $targetError,
            ], JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
            'counted_at' => now()->format('Y-m-d H:i:s.v'),
            'error' => null,
        ]);
        DB::table('counts')->where('round_id', $round)->where('asked_at', $asked)->update(['state' => Counted::DONE]);
    }

    public static function failed(int $round, string $error): void
    {
        DB::table('counts')->where('round_id', $round)->update(['state' => Counted::FAILED, 'error' => $error]);
    }

    /** @param  list<mixed>  $line  as keep() wrote it */
    private static function proof(array $line): CountProof
    {
        return new CountProof(...$line);
    }
}
