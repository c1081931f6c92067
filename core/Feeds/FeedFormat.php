<?php

namespace Baggage\Core\Feeds;

use Baggage\Core\Reading\Format;

/** A feed that is made out of other extracts: joined by key, stacked, side by side, or the distinct values of some columns. */
final readonly class FeedFormat implements Format
{
    /**
     * @param  list<string>  $of  extracts, each as "SOURCE/name"
     * @param  array<string, string>  $on  for a join: column of the first extract → column of the second
     * @param  list<string>  $columns  for distinct values: the columns that together make a value
     * @param  bool  $multiplies  whether it is accepted that a join makes several rows of one
     */
    public function __construct(
        public Combination $combination,
        public array $of,
        public array $on = [],
        public array $columns = [],
        public string $compared = 'trim',
        public bool $multiplies = false,
    ) {
        self::refuseNumber($combination, count($of));
        foreach ($of as $name) {
            if (preg_match('~^[^/]+/[^/]+$~', $name) !== 1) {
                throw new \InvalidArgumentException(
                    "An extract is named by its source and its name, as in BB/people, not \"$name\".",
                );
            }
        }
        if ($combination !== Combination::Distinct && count(array_unique($of)) < count($of)) {
            throw new \InvalidArgumentException('A feed takes each extract once.');
        }
        if ($combination === Combination::Join && $on === []) {
            throw new \InvalidArgumentException('A join needs the columns that have to agree.');
        }
        if ($combination === Combination::Distinct && $columns === []) {
            throw new \InvalidArgumentException('Distinct values need the columns they stand in.');
        }
        self::refuseComparison($compared);
    }

    private static function refuseNumber(Combination $combination, int $n): void
    {
        [$least, $most] = $combination->extracts();
        if ($n < $least || $n > $most) {
            throw new \InvalidArgumentException(
                "A feed that is {$combination->label()} is made of "
                    .($least === $most
                        ? ($least === 1
                            ? 'one extract'
                            : "$least extracts")
                        : "$least to $most extracts")
                    .", not of $n.",
            );
        }
    }

    private static function refuseComparison(string $name): void
    {
        Comparison::named($name);
    }

    public static function kind(): string
    {
        return 'feed';
    }

    public static function fromArray(array $a): self
    {
        $combination = Combination::tryFrom((string) ($a['combined'] ?? ''))
            ?? throw new \InvalidArgumentException(
                'A feed is combined by one of '.implode(', ', array_column(Combination::cases(), 'value')).'.',
            );
        $texts = fn (mixed $list) => array_values(
            array_filter(array_map(fn ($t) => trim((string) $t), (array) $list), fn ($t) => $t !== ''),
        );
        $on = [];
        foreach ((array) ($a['on'] ?? []) as $left => $right) {
            $on[trim((string) $left)] = trim((string) $right);
        }

        return new self(
            $combination,
            $texts($a['of'] ?? []),
            array_filter($on, fn ($r, $l) => $l !== '' && $r !== '', ARRAY_FILTER_USE_BOTH),
            $texts($a['distinct'] ?? []),
            (string) ($a['compared'] ?? 'trim'),
            (bool) ($a['multiplies'] ?? false),
        );
    }

    public function toArray(): array
    {
        return ['combined' => $this->combination->value, 'of' => $this->of]
            + array_filter(
                [
                    'on' => $this->on ?: null,
                    'distinct' => $this->columns ?: null,
                    'compared' => $this->compared === 'trim' ? null : $this->compared,
                    'multiplies' => $this->multiplies ?: null,
                ],
                fn ($v) => $v !== null,
            );
    }

    public function describe(): string
    {
        return match ($this->combination) {
            Combination::Join => "{$this->of[0]} joined with {$this->of[1]} on "
                .implode(' and ', array_map(fn ($l, $r) => "$l = $r", array_keys($this->on), $this->on)),
            Combination::Stack => implode(', ', $this->of).' stacked',
            Combination::Position => "{$this->of[0]} and {$this->of[1]} side by side",
            Combination::Distinct => 'distinct '.implode(' + ', $this->columns)." of {$this->of[0]}",
        };
    }
}
