<?php

namespace App\People;

use App\Models\AuditEntry;
use App\Models\User;
use App\Support\When;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Support\LazyCollection;

/** Entries of one log by person, thing and time, the newest first. */
final readonly class LogFilter
{
    public const PAGE = 100;

    /** What stands for the command line, workers, and whoever was not logged in. */
    public const NOBODY = 'nobody';

    /**
     * @param  ?int  $migration  null for the log of the installation; what is done inside a migration is read by its own people
     * @param  ?string  $who  the number of a user, or NOBODY
     * @param  ?string  $what  in what was done, or in what is known of it
     * @param  ?string  $from  a day, as whoever reads has it
     * @param  ?string  $until  a day; all of it is still in
     * @param  ?int  $before  entries older than this one
     */
    public function __construct(
        public ?int $migration,
        public ?string $who = null,
        public ?string $what = null,
        public ?string $from = null,
        public ?string $until = null,
        public ?int $before = null,
    ) {
    }

    /** @return Collection<int, AuditEntry> one more than a page, where there are more */
    public function page(): Collection
    {
        return $this->entries()->with('user')->orderByDesc('id')->limit(self::PAGE + 1)->get();
    }

    /** @return LazyCollection<int, AuditEntry> all of them */
    public function all(): LazyCollection
    {
        return $this->entries()->with('user')->lazyByIdDesc(1000);
    }

    /** @return Collection<int, User> those who did anything here */
    public function people(): Collection
    {
        $ids = AuditEntry::query()->where('migration_id', $this->migration)->whereNotNull('user_id')->distinct()->pluck('user_id');

        return User::query()->whereKey($ids)->orderBy('name')->get(['id', 'name', 'email']);
    }

    /** @return array<string, string> as an address says it, without the page */
    public function query(): array
    {
        return array_filter(['who' => $this->who, 'what' => $this->what, 'from' => $this->from, 'until' => $this->until]);
    }

    /** @return Builder<AuditEntry> */
    private function entries(): Builder
    {
        $like = '%'.addcslashes((string) $this->what, '%_\\').'%';

        return AuditEntry::query()
            ->where('migration_id', $this->migration)
            ->when($this->who === self::NOBODY, fn ($q) => $q->whereNull('user_id'))
            ->when($this->who !== null && $this->who !== self::NOBODY, fn ($q) => $q->where('user_id', (int) $this->who))
            ->when($this->what !== null, fn ($q) => $q->where(fn ($q) => $q->whereLike('what', $like)->orWhereLike('detail', $like)))
            ->when($this->from !== null, fn ($q) => $q->where('at', '>=', When::day((string) $this->from)))
            ->when($this->until !== null, fn ($q) => $q->where('at', '<', When::day((string) $this->until, 1)))
            ->when($this->before !== null, fn ($q) => $q->where('id', '<', $this->before));
    }
}
