<?php

namespace App\View;

use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Reconciling\TotalKind;

/** The parts of a control total as segments of a bar whose length is what they come to, not rows. */
final class MoneyBar
{
    /** Percent a segment has at least. */
    private const LEAST = 1.6;

    /** Classes of parts that look like the outcome they are of. */
    private const AS = ['as is' => 'loaded', 'older' => 'updated'];

    /** @return array{words: string, segments: list<array{class: string, x: float, width: float}>} */
    public static function of(Figures $figures, TotalKind $kind): array
    {
        $shown = [];
        foreach (Part::cases() as $part) {
            $shown[$part->value] = $figures->sum($part->value);
        }
        $shown['gap'] = $figures->difference($kind) ?? '0';
        $shown = array_filter($shown, fn (string $v) => $v !== '0');
        // Only for drawing: what is said is exact.
        $sizes = array_map(fn (string $v) => abs((float) $v), $shown);
        $total = array_sum($sizes) ?: 1;
        $raw = array_map(fn (float $v) => 100 * $v / $total, $sizes);
        $lift = array_sum(array_map(fn (float $w) => max(0, self::LEAST - $w), $raw));
        $spare = array_sum(array_map(fn (float $w) => max(0, $w - self::LEAST), $raw)) ?: 1;
        $segments = [];
        $x = 0.0;
        foreach ($raw as $part => $w) {
            $w = $w < self::LEAST ? self::LEAST : $w - ($w - self::LEAST) / $spare * $lift;
            $segments[] = ['class' => self::AS[$part] ?? $part, 'x' => round($x, 3), 'width' => round($w, 3)];
            $x += $w;
        }

        $words = array_map(fn ($p, $v) => Amounts::said($v).' '.($p === 'gap' ? 'difference' : $p), array_keys($shown), $shown);

        return ['words' => implode(', ', $words), 'segments' => $segments];
    }
}
