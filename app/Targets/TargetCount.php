<?php

namespace App\Targets;

use App\Models\Target;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\Cache;

/** How many records a target held of each entity when a worker counted them last. */
final readonly class TargetCount
{
    /** @param  array<string, int|null>  $records  by entity */
    public function __construct(
        public bool $isGoing,
        public ?CarbonImmutable $at = null,
        public array $records = [],
        public ?string $error = null,
    ) {
    }

    public static function of(Target $target): ?self
    {
        $kept = Cache::get(self::key($target->id));

        return $kept === null ? null : new self(
            $kept['going'],
            $kept['at'] === null ? null : CarbonImmutable::parse($kept['at']),
            $kept['records'],
            $kept['error'],
        );
    }

    /** Has it counted by a worker; what was counted before is shown till then. */
    public static function ask(Target $target): void
    {
        $before = self::of($target);
        self::keep($target->id, new self(true, $before?->at, $before->records ?? [], $before?->error));
        CountTarget::dispatch($target->id);
    }

    public static function keep(int $target, self $count): void
    {
        Cache::put(self::key($target), [
            'going' => $count->isGoing,
            'at' => $count->at?->format('Y-m-d H:i:s'),
            'records' => $count->records,
            'error' => $count->error,
        ], now()->addDays(30));
    }

    private static function key(int $target): string
    {
        return "target-count:$target";
    }
}
