<?php

namespace App\Plans;

use App\Models\ChangeList;
use App\Models\User;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\Unforeseen;
use Baggage\Core\Plan\PlanError;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Cache;

/** A plan too long to be read or applied while somebody waits for the page: a worker does it in their name. */
final class ApplyPlan extends Job
{
    private const LONG = 200_000;

    private const MEMORY = '1536M';

    public int $timeout = 600;

    /**
     * @param  int|null  $list  of changes that is applied; null to read the plan first
     * @param  array<int>  $accepted
     */
    public function __construct(
        private readonly string $yaml,
        private readonly string $name,
        private readonly int $user,
        private readonly ?int $list = null,
        private readonly array $accepted = [],
    ) {
    }

    public static function isLong(string $yaml): bool
    {
        return strlen($yaml) > self::LONG;
    }

    /** @return array{text: string, link: string|null}|null what came of the last long plan somebody sent */
    public static function told(int $user): ?array
    {
        return Cache::get("plan-read:$user");
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): ?int
    {
        return $this->list === null ? null : ChangeList::query()->find($this->list)?->migration_id;
    }

    public function handle(PlanChanges $plans): void
    {
        Auth::onceUsingId($this->user);
        // A plan of 90,000 codes takes some hundred megabytes, three times over: as applied, in the file and on the screen.
        ini_set('memory_limit', self::MEMORY);
        try {
            $this->tell(...$this->apply($plans));
        } catch (PlanError|PlanConflicts|\DomainException $e) {
            $this->tell($e->getMessage());
        } catch (\Throwable $e) {
            $this->tell(Unforeseen::said("$this->name could not be read", $e));
        }
    }

    /** Also when its worker was killed: nothing was changed then, and whoever waits for it hears so. */
    public function failed(?\Throwable $e): void
    {
        $this->tell("$this->name was not read: the worker ended before it was done. Nothing was changed; send it again.");
    }

    /** @return array{string, string} what to tell, and where more stands */
    private function apply(PlanChanges $plans): array
    {
        if ($this->list !== null) {
            $list = ChangeList::query()->findOrFail($this->list);
            $made = $plans->apply($list, $this->accepted);

            return ["$this->name was applied: ".number_format($made).' changes made.', "/m/$list->migration_id/changes/$list->id"];
        }
        $made = $plans->read($this->yaml, $this->name, $this->user);

        return $made instanceof ChangeList
            ? ["$this->name was read: its changes are listed.", "/m/$made->migration_id/changes/$made->id"]
            : ["$this->name was read. Freeze its files next.", "/m/$made->id/sources"];
    }

    private function tell(string $text, ?string $link = null): void
    {
        if (User::query()->whereKey($this->user)->exists()) {
            Cache::put("plan-read:$this->user", ['text' => mb_substr($text, 0, 4000), 'link' => $link], now()->addDay());
        }
    }
}
