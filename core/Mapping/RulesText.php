<?php

namespace Baggage\Core\Mapping;

/**
 * All rules of a load as one text: a line for each field, "field = rule" or "field left empty: reason". A rule goes on in lines that
 * begin with a blank; lines that begin with # are read over; a field with nothing behind its = has no rule.
 */
final class RulesText
{
    /** @param  array<string, array{rule: string|null, empty: string|null}>  $rules  by field, in the order to write */
    public static function write(array $rules): string
    {
        $text = '';
        foreach ($rules as $field => $r) {
            $text
                .= match (true) {
                    $r['rule'] !== null => "$field = ".preg_replace('/\R/', "\n    ", trim($r['rule'])),
                    $r['empty'] !== null => "$field left empty: ".preg_replace('/\s+/', ' ', trim($r['empty'])),
                    default => "$field =",
                }."\n";
        }

        return $text;
    }

    /**
     * @return array{
     *     rules: array<string, array{rule: string|null, empty: string|null, line: int}>,
     *     problems: list<array{line: int, message: string}>,
     * }
     */
    public static function parse(string $text): array
    {
        $rules = $problems = [];
        $current = null;
        foreach (preg_split('/\R/', $text) ?: [] as $i => $line) {
            $problem = null;
            if (trim($line) === '' || str_starts_with($line, '#')) {
                continue;
            }
            if ($line[0] === ' ' || $line[0] === "\t") {
                if ($current === null || $rules[$current]['rule'] === null) {
                    $problem = 'This line begins with a blank, so it would go on with a rule, and there is none above it.';
                } else {
                    $rules[$current]['rule'] .= "\n".trim($line);
                }
            } elseif (preg_match('/^([\w.-]+)\s*(?:=\s*(.*)|left empty:\s*(.*))$/u', rtrim($line), $m) !== 1) {
                $problem = 'A line reads "field = rule" or "field left empty: reason".';
                $current = null;
            } else {
                $current = $m[1];
                $empty = isset($m[3]) ? trim($m[3]) : null;
                $problem = match (true) {
                    isset($rules[$current]) => "The field $current stands in line {$rules[$current]['line']} already.",
                    $empty === '' => "Say why $current is left empty.",
                    default => null,
                };
                $rule = trim($m[2] ?? '');
                $rules[$current] = [
                    'rule' => $rule === '' ? null : $rule,
                    'empty' => $empty === '' ? null : $empty,
                    'line' => $i + 1,
                ];
            }
            if ($problem !== null) {
                $problems[] = ['line' => $i + 1, 'message' => $problem];
            }
        }

        return ['rules' => $rules, 'problems' => $problems];
    }
}
