<?php

namespace App\Targets;

use App\Models\Target;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\Cache;

/** How many records a target held of each entity when a worker counted them last. */
final readonly class TargetCount
{
    /** Minutes until a worker that was asked to count is taken for lost. */
    private const PATIENCE = 10;

    /** @param  array<string, int|null>  $records  by entity */
    public function __construct(
        public bool $isGoing,
        public ?CarbonImmutable $at = null,
        public array $records = [],
        public ?string $error = null,
        public ?CarbonImmutable $asked = null,
    ) {
    }

    public static function of(Target $target): ?self
    {
        $kept = Cache::get(self::key($target->id));

        // What another release kept may have another form.
        return ! is_array($kept) || ! isset($kept['going'], $kept['records']) ? null : new self(
            $kept['going'],
            isset($kept['at']) ? CarbonImmutable::parse($kept['at']) : null,
            $kept['records'],
            $kept['error'] ?? null,
            isset($kept['asked']) ? CarbonImmutable::parse($kept['asked']) : null,
        );
    }

    /** Has it counted by a worker, unless one was just asked to; what was counted before is shown till then. */
    public static function ask(Target $target): void
    {
        $before = self::of($target);
        if ($before?->isGoing && $before->asked?->isAfter(now()->subMinutes(self::PATIENCE))) {
            return;
        }
        $now = CarbonImmutable::now();
        self::keep($target->id, new self(true, $before?->at, $before->records ?? [], $before?->error, $now));
        CountTarget::dispatch($target->id);
    }

    public static function keep(int $target, self $count): void
    {
        Cache::put(self::key($target), [
            'going' => $count->isGoing,
            'at' => $count->at?->format('Y-m-d H:i:s'),
            'records' => $count->records,
            'error' => $count->error,
            'asked' => $count->asked?->format('Y-m-d H:i:s'),
        ], now()->addDays(30));
    }

    private static function key(int $target): string
    {
        return "target-count:$target";
    }
}
