<?php

namespace App\Reckoning;

use App\Models\Reckoning;
use App\Support\BulkRows;
use Baggage\Core\Reconciling\CountedRow;
use Baggage\Core\Reconciling\Part;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Rows of one group of a control total: found by going through all of them once, and kept with what was counted. */
final class GroupRows
{
    /** Rows kept of each part. */
    public const MOST = 10_000;

    private const AT_ONCE = 1_000;

    private const VALUE = 1_000;

    /** Before the part of rows that are not all found yet: what a killed worker leaves is shown to nobody. */
    private const UNFINISHED = '~';

    private string $lines = '';

    private int $pending = 0;

    /** @var array<string, int> part → rows */
    private array $found = [];

    public function __construct(private readonly Reckoning $reckoning, private readonly TotalLine $line, private readonly string $group)
    {
    }

    public function row(int $load, CountedRow $row, string $group, ?string $value): void
    {
        $part = $row->part->value ?? '';
        if ($group !== $this->group || ($this->found[$part] ?? 0) >= self::MOST) {
            return;
        }
        $cut = fn (?string $v) => $v === null ? null : mb_substr(mb_scrub($v), 0, self::VALUE);
        $this->found[$part] = ($this->found[$part] ?? 0) + 1;
        $this->lines .= BulkRows::line([
            $this->reckoning->id, $this->line->number, $group, self::UNFINISHED.$part, $load, $row->row, $cut($value),
            $cut($row->record[$this->line->total->field] ?? null),
        ]);
        if (++$this->pending === self::AT_ONCE) {
            $this->flush();
        }
    }

    private function flush(): void
    {
        $columns = '(reckoning_id, total, name, part, load_id, item, legacy, target)';
        BulkRows::load(DB::connection(), 'group_rows', $columns, $this->lines, $this->pending);
        [$this->lines, $this->pending] = ['', 0];
    }

    /**
     * Finds them anew.
     *
     * @param  \Closure(int): void  $reached  told how many rows were gone through; what it throws ends it
     * @return int rows that were found
     *
     * @throws \DomainException why they cannot be found
     * @throws \Baggage\Core\Loading\TargetUnavailable
     */
    public function find(\Closure $reached): int
    {
        $this->forget();
        try {
            Reckoner::tell($this->reckoning, $this->line, $this->row(...), $reached);
            $this->flush();
            $this->check();
            $this->all()->update(['part' => DB::raw('SUBSTRING(part, 2)')]);
        } catch (\Throwable $e) {
            $this->forget();
            throw $e;
        }

        return array_sum($this->found);
    }

    /** Without a pass too rows may become something else: somebody leaves them behind, or takes that back. */
    private function check(): void
    {
        $figures = (new Differences($this->reckoning))->group($this->line->number, $this->group);
        foreach (Part::cases() as $part) {
            if (($this->found[$part->value] ?? 0) !== min(self::MOST, $figures?->rows($part->value) ?? 0)) {
                throw new \DomainException('Rows became something else since it was counted. Count the totals again first.');
            }
        }
    }

    private function forget(): void
    {
        Reckonings::inRanges(fn () => $this->all());
    }

    public function isListed(): bool
    {
        return $this->shown(null)->exists();
    }

    /**
     * @param  Part|null  $part  null for all
     * @return list<\stdClass> number, part, load_id, item, legacy (what the row counts with), target (what its record says)
     */
    public function listed(?Part $part, int $after, int $most): array
    {
        return $this->shown($part)
            ->where('number', '>', $after)->orderBy('number')->limit($most)->get()->all();
    }

    private function shown(?Part $part): Builder
    {
        return $this->all()->whereIn('part', $part === null ? array_column(Part::cases(), 'value') : [$part->value]);
    }

    private function all(): Builder
    {
        return DB::table('group_rows')->where('reckoning_id', $this->reckoning->id)->where('total', $this->line->number)
            ->where('name', $this->group);
    }
}
