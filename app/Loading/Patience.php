<?php

namespace App\Loading;

use App\Models\Pass;
use Baggage\Core\Loading\TargetUnavailable;

/** Waits for a target that does not answer: longer each time, or as long as it says itself. The pass says when it tries again. */
final class Patience
{
    /** Where only another writer is in the way. */
    private const TRIES_SOON = 8;

    private const SOON = 20_000;

    /** A deadlock, and a lock that was waited for too long. */
    private const IN_THE_WAY = [1213, 1205];

    /** @var \Closure(): bool */
    private \Closure $leaves;

    /** @param  int  $wait  multiplies the waits; 0 in tests */
    public function __construct(private readonly Pass $pass, private readonly int $wait)
    {
        $this->leaves = fn () => false;
    }

    /** @param  \Closure(): bool  $leaves  whether the worker is needed elsewhere */
    public function leavesWhere(\Closure $leaves): void
    {
        $this->leaves = $leaves;
    }

    /**
     * What was done meanwhile the target remembers, so the same is done again.
     *
     * @template T
     *
     * @param  \Closure(): T  $do
     * @return T
     *
     * @throws TargetUnavailable when it did not answer in all that time
     * @throws MakesRoom
     */
    public function during(\Closure $do): mixed
    {
        for ($try = 0, $soon = 1; ;) {
            try {
                $done = $do();
                $try === 0 ?: PassLog::note($this->pass, 'The target answers again.');

                return $done;
            } catch (TargetUnavailable $e) {
                if (! $e->isSoon) {
                    $this->wait($e, $try++);
                } elseif ($soon++ === self::TRIES_SOON) {
                    throw $e;
                } else {
                    usleep(random_int(1, self::SOON * 2 ** $soon));
                }
            } catch (\PDOException $e) {
                // Baggage's own tables are written by all workers; what a step did in the target it remembers.
                if (! in_array((int) ($e->errorInfo[1] ?? 0), self::IN_THE_WAY, true) || $soon++ === self::TRIES_SOON) {
                    throw $e;
                }
                usleep(random_int(1, self::SOON * 2 ** $soon));
            }
        }
    }

    /**
     * @param  int  $try  tries before
     *
     * @throws TargetUnavailable|MakesRoom
     */
    private function wait(TargetUnavailable $e, int $try): void
    {
        $waits = array_map(intval(...), (array) config('baggage.patience'));
        if ($try >= count($waits)) {
            throw $e;
        }
        $seconds = $this->wait * max($waits[$try], (int) $e->after);
        $next = now()->addSeconds($seconds);
        if (! PassLog::isWaiting($this->pass)) {
            $of = count($waits) + 1;
            PassLog::note($this->pass, rtrim($e->getMessage(), '.').'. It is tried again, for the '.($try + 2).". time of $of.", $next);
        }
        while (now() < $next) {
            usleep(250_000);
            $now = Pass::query()->whereKey($this->pass->id)->first(['stop_requested', 'state']);
            if ($now === null || $now->stop_requested || ! $now->isGoing()) {
                throw $e;
            }
            if (($this->leaves)()) {
                throw MakesRoom::whileWaiting($e);
            }
        }
    }
}
