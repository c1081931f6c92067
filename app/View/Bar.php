<?php

namespace App\View;

use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Reconciling\TotalKind;
use Baggage\Core\Rows\Outcome;

/** A bar of segments, each as long as its share and none so short that nobody sees it. */
final readonly class Bar
{
    /** Percent a segment has at least; the long ones give it up. */
    private const LEAST = 1.6;

    /** Parts of a control total that look like the outcome they are of. */
    private const AS = [Part::AsIs->value => 'loaded', Part::Older->value => 'updated'];

    /** @param  list<array{class: string, x: float, width: float}>  $segments  in percent of the bar */
    private function __construct(public string $words, public array $segments)
    {
    }

    /** What became of rows. */
    public static function ofRows(CountProof $proof): self
    {
        $sizes = [];
        foreach (Outcome::cases() as $outcome) {
            $outcome->isBeside() ?: $sizes[$outcome->value] = $proof->count($outcome);
        }
        $sizes = array_filter([...$sizes, 'gap' => max(0, $proof->unaccounted())]);
        $words = array_map(
            fn (int $n, string $of) => number_format($n).' '.($of === 'gap' ? 'unaccounted for' : $of), $sizes, array_keys($sizes),
        );

        return new self(implode(', ', $words) ?: 'no rows', self::segments($sizes));
    }

    /** The parts of a control total, as long as what they come to. */
    public static function ofMoney(Figures $figures, TotalKind $kind): self
    {
        $sums = [];
        foreach (Part::cases() as $part) {
            $sums[$part->value] = $figures->sum($part->value);
        }
        $sums = array_filter([...$sums, 'gap' => $figures->difference($kind) ?? '0'], fn (string $v) => $v !== '0');
        $words = array_map(
            fn (string $v, string $of) => Amounts::said($v).' '.($of === 'gap' ? 'difference' : $of), $sums, array_keys($sums),
        );
        $sizes = [];
        foreach ($sums as $of => $sum) {
            // Only for drawing: what is said is exact.
            $sizes[self::AS[$of] ?? $of] = abs((float) $sum);
        }

        return new self(implode(', ', $words) ?: 'nothing', self::segments($sizes));
    }

    /**
     * @param  array<string, int|float>  $sizes  class of a segment → how much it stands for
     * @return list<array{class: string, x: float, width: float}>
     */
    private static function segments(array $sizes): array
    {
        $total = array_sum($sizes) ?: 1;
        $raw = array_map(fn (int|float $n) => 100 * $n / $total, $sizes);
        $lift = array_sum(array_map(fn (float $w) => max(0, self::LEAST - $w), $raw));
        $spare = array_sum(array_map(fn (float $w) => max(0, $w - self::LEAST), $raw)) ?: 1;
        $segments = [];
        $x = 0.0;
        foreach ($raw as $class => $w) {
            $w = $w < self::LEAST ? self::LEAST : $w - ($w - self::LEAST) / $spare * $lift;
            $segments[] = ['class' => $class, 'x' => round($x, 3), 'width' => round($w, 3)];
            $x += $w;
        }

        return $segments;
    }
}
