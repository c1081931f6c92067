<?php

namespace App\Reading;

use Baggage\Core\Reading\Query\Parameter;

/** The parameters of a query as people write them in a form: one a line. */
final class ParameterText
{
    /** @param  array<string, Parameter>  $parameters */
    public static function of(array $parameters): string
    {
        return implode(
            "\n",
            array_map(
                fn (string $name, Parameter $p) => "$name = "
                    .match ($p->kind) {
                        'highest' => "highest $p->column, first $p->value",
                        'fixed' => $p->value,
                        default => $p->kind,
                    },
                array_keys($parameters),
                $parameters,
            ),
        );
    }

    /** @return array<string, array<string, mixed>> as the plan file writes them */
    public static function parse(string $text): array
    {
        $parameters = [];
        foreach (preg_split('/\R/', $text) ?: [] as $line) {
            if (trim($line) === '') {
                continue;
            }
            if (preg_match('/^\s*:?(\w+)\s*=\s*(.*?)\s*$/', $line, $m) !== 1) {
                throw new \InvalidArgumentException("\"$line\" is no parameter: write name = value.");
            }
            $parameters[$m[1]] = match (true) {
                in_array($m[2], ['today', 'month_start'], true) => [$m[2] => true],
                preg_match('/^highest\s+(.+?)(?:\s*,\s*first\s+(.*))?$/', $m[2], $h) === 1 => [
                    'highest' => $h[1],
                    'first' => $h[2] ?? '',
                ],
                default => ['fixed' => $m[2]],
            };
        }

        return $parameters;
    }
}
