<?php

namespace App\Reckoning;

use App\Ledger\DueBook;
use App\Models\Audit;
use App\Models\Load;
use App\Models\ReckoningKind;
use App\Models\Round;
use App\Rejects\Repairs;
use App\Support\Amount;
use Baggage\Core\Reconciling\FieldTally;
use Illuminate\Support\Facades\DB;

/** Has records that somebody changed in the target written again by the rows that stand on them, or leaves them after all. */
final readonly class WriteAgain
{
    private const AT_ONCE = 1_000;

    /**
     * @param  int  $reckoning  the comparison in which they were seen
     * @param  int|null  $row  one of them; null for all that differ in this way
     */
    public function __construct(
        private Round $round,
        private Load $load,
        private int $reckoning,
        private string $field,
        private string $class,
        private ?int $row,
    ) {
    }

    /**
     * @return string what will be
     *
     * @throws \DomainException why none can be written again
     */
    public function ask(): string
    {
        Reckonings::mayReckon($this->round);
        if ($this->field === '' && ! $this->load->policy->creates()) {
            throw new \DomainException("{$this->load->name} makes no records: have those rows written again that made them.");
        }
        $n = $this->each(fn (DueBook $book, array $rows) => $book->writeAgain($this->load->id, $rows));

        return $n > 0
            ? Amount::of($n, 'record').' will be written again when the rows that are due are loaded.'
            : throw new \DomainException('None of these rows stands for its record as it did when it was compared.');
    }

    /**
     * @return string what will be
     *
     * @throws \DomainException
     */
    public function leave(): string
    {
        $n = $this->each(fn (DueBook $book, array $rows) => $book->leave($this->load->id, $rows));

        return Amount::of($n, 'record stays as it is.', 'records stay as they are.');
    }

    /** @param  \Closure(DueBook, non-empty-list<int>): int  $do */
    private function each(\Closure $do): int
    {
        Repairs::mayBeDecided($this->round);
        $newest = Reckonings::newest($this->round, ReckoningKind::Comparison);
        if ($newest?->id !== $this->reckoning) {
            throw new \DomainException('It was compared again meanwhile: look at the page as it is now.');
        }

        return DB::transaction(function () use ($newest, $do) {
            [$book, $found, $n] = [new DueBook($this->round->laneId()), new Differences($newest), 0];
            for ($after = 0; ($rows = $this->page($found, $after)) !== []; $after = end($rows)->number) {
                $n += $do($book, array_values(array_unique(array_map(fn (\stdClass $r) => (int) $r->item, $rows))));
            }
            Audit::note($this->round->migration_id, "decided whether records of {$this->load->name} are written again", [
                'round' => $this->round->name, 'field' => $this->field, 'difference' => $this->class, 'records' => $n,
                'still to be written again' => $book->toWriteAgain()[$this->load->id] ?? 0,
            ]);

            return $n;
        });
    }

    /** @return list<\stdClass> */
    private function page(Differences $found, int $after): array
    {
        return $found->compared($this->load->id, $this->field, $this->class, FieldTally::SINCE, $after, self::AT_ONCE, $this->row);
    }
}
