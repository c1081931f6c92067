<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

final class Units
{
    /**
     * What one unit is in the base unit of its kind; exact by definition (NIST Special Publication 811, appendix B; Weights and
     * Measures Act 1985 for the imperial gallon).
     */
    private const FACTORS = [
        'length' => [
            'm' => '1',
            'km' => '1000',
            'cm' => '0.01',
            'mm' => '0.001',
            'in' => '0.0254',
            'ft' => '0.3048',
            'yd' => '0.9144',
            'mi' => '1609.344',
            'nmi' => '1852',
            'fathom' => '1.8288',
        ],
        'mass' => [
            'kg' => '1',
            'g' => '0.001',
            't' => '1000',
            'lb' => '0.45359237',
            'oz' => '0.028349523125',
            'st' => '6.35029318',
            'cwt' => '50.80234544',
            'long ton' => '1016.0469088',
        ],
        'volume' => [
            'l' => '1',
            'ml' => '0.001',
            'm3' => '1000',
            'gal' => '4.54609',
            'us gal' => '3.785411784',
            'pt' => '0.56826125',
        ],
        'area' => ['m2' => '1', 'ha' => '10000', 'acre' => '4046.8564224', 'ft2' => '0.09290304'],
        'speed' => [
            'm/s' => '1',
            'km/h' => '0.2777777777777777777777777778',
            'kn' => '0.5144444444444444444444444444',
            'mph' => '0.44704',
        ],
        'power' => ['w' => '1', 'kw' => '1000', 'hp' => '745.69987158227022', 'ps' => '735.49875'],
    ];

    #[
        Described(
            'convert',
            'number, from, to',
            'A measure in another unit of the same kind: lengths (m, ft, in, nmi, fathom …), masses (kg, lb, '
                .'long ton …), volumes, areas, speeds (kn …), powers (kw, hp, ps).',
            "convert('10', 'fathom', 'm')",
            '18.288',
        ),
    ]
    public static function convert(string|int|null $number, string $from, string $to): ?string
    {
        if (Operators::blank($number)) {
            return null;
        }
        [$from, $to] = [strtolower(trim($from)), strtolower(trim($to))];
        foreach (self::FACTORS as $units) {
            if (isset($units[$from], $units[$to])) {
                $base = Operators::decimal($number)->multipliedBy($units[$from]);

                return self::plain($base->dividedBy($units[$to], 12, RoundingMode::HALF_UP));
            }
        }
        throw new RuleFailure('unknown_unit', "There is no way from \"$from\" to \"$to\"", (string) $number);
    }

    #[
        Described(
            'celsius',
            'number',
            'A temperature in degrees Fahrenheit in degrees Celsius.',
            "celsius('212')",
            '100',
        ),
    ]
    public static function celsius(string|int|null $fahrenheit): ?string
    {
        return Operators::blank($fahrenheit)
            ? null
            : self::plain(
                Operators::decimal($fahrenheit)->minus(32)->multipliedBy(5)->dividedBy(9, 12, RoundingMode::HALF_UP),
            );
    }

    private static function plain(BigDecimal $number): string
    {
        return (string) $number->stripTrailingZeros()->toScale(max(0, $number->stripTrailingZeros()->getScale()));
    }
}
