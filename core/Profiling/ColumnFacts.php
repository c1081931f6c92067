<?php

namespace Baggage\Core\Profiling;

use Baggage\Core\Reading\RowList;

/** The profile of one column. */
final readonly class ColumnFacts
{
    /**
     * @param  int  $blank  cells that hold nothing but blanks
     * @param  int  $missing  cells the source has no value for at all
     * @param  bool  $estimated  whether $distinct is an estimate (DistinctEstimate::ERROR)
     * @param  list<string>  $examples
     * @param  array<string, int>  $shapes  the most frequent, see Shape
     * @param  array<int, RowList>  $marked  mark → rows
     * @param  array{kind: string, bars: list<int>, from: string, to: string}|null  $strip  see Strip
     */
    public function __construct(
        public int $filled,
        public int $blank,
        public int $missing,
        public int $distinct,
        public bool $estimated,
        public int $shortest,
        public int $longest,
        public ?string $smallest,
        public ?string $largest,
        public array $examples,
        public array $shapes,
        public Inference $inference,
        public array $marked,
        public ?array $strip = null,
    ) {
    }

    /** @param  array{kind: string, bars: list<int>, from: string, to: string}|null  $strip */
    public function with(?array $strip): self
    {
        return new self(...['strip' => $strip] + get_object_vars($this));
    }

    /** @return array<string, mixed> for storage with the take */
    public function toArray(): array
    {
        return [
            'filled' => $this->filled,
            'blank' => $this->blank,
            'missing' => $this->missing,
            'distinct' => $this->distinct,
            'estimated' => $this->estimated,
            'shortest' => $this->shortest,
            'longest' => $this->longest,
            'smallest' => $this->smallest,
            'largest' => $this->largest,
            'examples' => $this->examples,
            'shapes' => $this->shapes,
            'type' => $this->inference->toArray(),
            'strip' => $this->strip,
        ];
    }
}
