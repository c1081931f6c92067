<?php

namespace Baggage\Core\Profiling;

use Baggage\Core\Reading\RowList;

/** What kind of thing a column seems to hold, and how sure that is. */
final readonly class Inference
{
    /**
     * @param  string  $type  'empty', 'yes_no', 'whole', 'decimal', 'date', 'code', 'text'
     * @param  string  $detail  the decimal sign, or the date formats that fit all dates, separated by bars
     * @param  bool  $ambiguous  whether day and month cannot be told apart
     * @param  int  $breaking  rows that are filled and do not fit
     * @param  int|null  $mark  the mark those rows have
     */
    private function __construct(
        public string $type,
        public string $detail = '',
        public bool $ambiguous = false,
        public int $breaking = 0,
        public ?int $mark = null,
    ) {
    }

    /**
     * @param  array<int, RowList>  $marked
     * @param  list<int>  $general  marks that so many rows have that they were not collected
     * @param  array<int, int>  $dates  place in DateShape::FORMATS → values that fit
     * @param  array<string, int>  $shapes
     */
    public static function of(
        int $filled,
        ?int $distinct,
        array $marked,
        array $general,
        array $dates,
        int $longest,
        array $shapes,
    ): self {
        if ($filled === 0) {
            return new self('empty');
        }
        $without = fn (int $mark): int => in_array($mark, $general, true) ? $filled : ($marked[$mark]->count ?? 0);
        // Nine rows of ten have to agree before the others are called exceptions.
        $most = fn (int $mark): bool => $without($mark) * 10 <= $filled;
        if ($most(Mark::NOT_DATE) && ! self::areNumbers($dates, $filled)) {
            return self::dates($filled, $without(Mark::NOT_DATE), $without(Mark::SENTINEL_DATE), $dates);
        }
        if ($without(Mark::NOT_YES_NO) === 0 && $distinct !== null && $distinct <= 3) {
            return new self('yes_no');
        }
        if ($most(Mark::NOT_WHOLE)) {
            $zeros = $without(Mark::LEADING_ZERO);

            return new self($zeros > 0 ? 'code' : 'whole', '', false, $without(Mark::NOT_WHOLE), Mark::NOT_WHOLE);
        }
        foreach ([Mark::NOT_POINT => '.', Mark::NOT_COMMA => ','] as $mark => $sign) {
            $other = $mark === Mark::NOT_POINT ? Mark::NOT_COMMA : Mark::NOT_POINT;
            if ($most($mark) && $without($mark) <= $without($other)) {
                return new self('decimal', $sign, false, $without($mark), $mark);
            }
        }

        return new self(self::isCode($filled, $distinct, $longest, $shapes) ? 'code' : 'text');
    }

    /**
     * Most values have the same short shape, or few different short ones come again and again.
     *
     * @param  array<string, int>  $shapes
     */
    private static function isCode(int $filled, ?int $distinct, int $longest, array $shapes): bool
    {
        $usual = $shapes === [] ? '' : (string) array_key_first($shapes);
        $alike = $longest <= 20
            && $usual !== Shape::OTHER
            && ! str_contains($usual, '+')
            && ($shapes[$usual] ?? 0) * 5 > $filled * 4;

        return $alike || ($distinct !== null && $distinct <= 60 && $distinct * 5 < $filled && $longest <= 30);
    }

    /**
     * Six or eight digits may be a date or just a number.
     *
     * @param  array<int, int>  $dates
     */
    private static function areNumbers(array $dates, int $filled): bool
    {
        $best = $dates === [] ? 0 : max($dates);
        foreach ($dates as $at => $n) {
            if (($at < 13 || $at > 16) && $n > 0) {
                return false;
            }
        }

        return $best * 10 < $filled * 9;
    }

    /** @param  array<int, int>  $dates */
    private static function dates(int $filled, int $breaking, int $sentinels, array $dates): self
    {
        arsort($dates);
        $best = $dates === [] ? 0 : max($dates);
        $full = array_keys(array_filter($dates, fn ($n) => $n === $best));
        sort($full);
        $names = array_map(fn (int $at) => DateShape::FORMATS[$at], $full);
        $dayFirst = array_filter($names, fn ($f) => $f[0] === 'd');
        $monthFirst = array_filter($names, fn ($f) => $f[0] === 'm');
        // Dates in a second form: those the best form does not fit.
        foreach ($dates as $at => $n) {
            $format = DateShape::FORMATS[$at];
            if (
                $n < $best
                && $n + $best >= ($filled - $breaking - $sentinels) * 0.98
                && $n * 50 > $filled
                && ($names === [] || $format[0] === $names[0][0])
            ) {
                $names[] = $format;
            }
        }

        return new self(
            'date',
            implode('|', $names),
            $dayFirst !== [] && $monthFirst !== [],
            $breaking,
            Mark::NOT_DATE,
        );
    }

    public function label(): string
    {
        return match ($this->type) {
            'empty' => 'empty',
            'yes_no' => 'yes or no',
            'whole' => 'whole number',
            'decimal' => $this->detail === ',' ? 'decimal, comma' : 'decimal',
            'date' => $this->detail === '' ? 'date' : 'date '.str_replace('|', ' or ', $this->detail),
            'code' => 'code',
            default => 'text',
        };
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'type' => $this->type,
            'detail' => $this->detail,
            'ambiguous' => $this->ambiguous,
            'breaking' => $this->breaking,
            'mark' => $this->mark,
            'label' => $this->label(),
        ];
    }
}
