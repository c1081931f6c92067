<?php

namespace Baggage\Core\Targets\Conditions;

use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Types\SetType;

/** Reads the clause of a CHECK as MariaDB, PostgreSQL or SQLite state it: comparisons, ranges, lists, lengths, patterns. */
final class Clause
{
    /** Brackets within brackets. */
    private const DEEPEST = 60;

    /** Parts tried in all: a bracket is tried as a test and as a value. */
    private const MOST = 5_000;

    /** What may follow a value. */
    private const COMPARES = [
        '=', '<>', '!=', '<', '<=', '>', '>=', '+', '-', '*', '::', '~', '~*', '!~', '!~*',
        'in', 'between', 'like', 'regexp', 'rlike', 'is', 'not',
    ];

    private int $depth = 0;

    private int $tried = 0;

    private function __construct(private readonly Tokens $words, private readonly Entity $entity)
    {
    }

    /** @throws NotRead */
    public static function read(string $clause, Entity $entity): Test
    {
        $reader = new self(Tokens::of($clause), $entity);
        $test = $reader->some();

        return $reader->words->ends() ? $test : throw NotRead::at($reader->words->says());
    }

    private function some(): Test
    {
        $tests = [$this->all()];
        while ($this->words->take('or') || $this->words->take('||')) {
            $tests[] = $this->all();
        }

        return count($tests) === 1 ? $tests[0] : new Some($tests);
    }

    private function all(): Test
    {
        $tests = [$this->test()];
        while ($this->words->take('and') || $this->words->take('&&')) {
            $tests[] = $this->test();
        }

        return count($tests) === 1 ? $tests[0] : new All($tests);
    }

    private function test(): Test
    {
        $this->deeper();
        try {
            return $this->words->take('not') || $this->words->take('!') ? new Not($this->test()) : $this->bracketOrPredicate();
        } finally {
            $this->depth--;
        }
    }

    private function deeper(): void
    {
        if (++$this->depth > self::DEEPEST || ++$this->tried > self::MOST) {
            throw NotRead::long();
        }
    }

    /** A bracket may hold a test, or a value that is compared: "(a > 1) and b", "(a + 1) > b". */
    private function bracketOrPredicate(): Test
    {
        $from = $this->words->at;
        if ($this->words->take('(')) {
            try {
                $test = $this->some();
                $this->words->need(')');
                if (! $this->isCompared()) {
                    return $test;
                }
            } catch (NotRead) {
                // Then it is a value.
            }
            $this->words->at = $from;
        }

        return $this->predicate($this->operand());
    }

    /** Whether what follows makes the bracket before it a value. */
    private function isCompared(): bool
    {
        $at = $this->words->at;
        $is = false;
        foreach (self::COMPARES as $next) {
            $is = $is || $this->words->take($next);
        }
        $this->words->at = $at;

        return $is;
    }

    private function predicate(Operand $left): Test
    {
        $words = $this->words;
        foreach (['=', '<>', '!=', '<', '<=', '>', '>='] as $sign) {
            if ($words->take($sign)) {
                return $words->take('any')
                    ? $this->any($left, $sign)
                    : $this->comparison($sign === '!=' ? '<>' : $sign, $left, $this->operand());
            }
        }
        if ($words->take('is', 'null')) {
            return $this->isEmpty($left);
        }
        if ($words->take('is', 'not', 'null')) {
            return new Not($this->isEmpty($left));
        }
        $not = $words->take('not');
        $test = match (true) {
            $words->take('in') => $this->among($left),
            $words->take('between') => $this->between($left),
            $words->take('like') => $this->like($left),
            $words->take('regexp'), $words->take('rlike'), $words->take('~') => $this->regex($left, $words->says(), ''),
            ! $not && $words->take('!~') => new Not($this->regex($left, $words->says(), '')),
            $words->take('~*') => $this->regex($left, $words->says(), '(?i)'),
            ! $not && $words->take('!~*') => new Not($this->regex($left, $words->says(), '(?i)')),
            default => throw NotRead::at($words->says()),
        };

        return $not ? new Not($test) : $test;
    }

    private function isEmpty(Operand $left): Test
    {
        return $left instanceof FieldValue ? new IsEmpty($left) : throw NotRead::at('is null');
    }

    private function comparison(string $sign, Operand $left, Operand $right): Comparison
    {
        [$a, $b] = [$left->kind(), $right->kind()];
        if ($a !== $b && in_array(Kind::Date, [$a, $b], true)) {
            $other = $a === Kind::Date ? $right : $left;
            if (! $other instanceof Constant || preg_match('/^\d{4}-\d\d-\d\d( \d\d:\d\d:\d\d)?$/', $other->value) !== 1) {
                throw NotRead::kinds($left->words(), $right->words());
            }
        }
        if ($a === Kind::Text && $b === Kind::Text && ! in_array($sign, ['=', '<>'], true)) {
            throw NotRead::order($left->words());
        }

        return new Comparison($sign, $left, $right);
    }

    private function among(Operand $left): Among
    {
        $this->words->need('(');
        $list = [];
        do {
            $list[] = $this->operand();
            $this->comparison('=', $left, end($list));
        } while ($this->words->take(','));
        $this->words->need(')');

        return new Among($left, $list);
    }

    /** "= ANY (ARRAY['a', 'b'])" is how PostgreSQL keeps a list. */
    private function any(Operand $left, string $sign): Among
    {
        $open = 0;
        while ($this->words->take('(')) {
            $open++;
        }
        if ($sign !== '=' || ! $this->words->take('array', '[')) {
            throw NotRead::at($this->words->says());
        }
        $list = [];
        do {
            $list[] = $this->operand();
        } while ($this->words->take(','));
        $this->words->need(']');
        for (; $open > 0; $open--) {
            $this->cast();
            $this->words->need(')');
        }

        return new Among($left, $list);
    }

    private function between(Operand $left): Between
    {
        $from = $this->operand();
        $this->words->need('and');
        $to = $this->operand();
        $this->comparison('>=', $left, $from);
        $this->comparison('<=', $left, $to);

        return new Between($left, $from, $to);
    }

    private function like(Operand $left): Pattern
    {
        $pattern = $this->pattern();
        $escape = $this->words->take('escape') ? (string) $this->words->taken('text') : '\\';

        return Pattern::like($left, $pattern, $escape);
    }

    private function regex(Operand $left, string $says, string $flags): Pattern
    {
        $regex = $this->pattern();

        return Pattern::regex($left, $flags.$regex) ?? throw NotRead::pattern($says);
    }

    private function pattern(): string
    {
        $open = $this->words->take('(');
        $text = $this->words->taken('text') ?? throw NotRead::at($this->words->says());
        $this->cast();
        if ($open) {
            $this->words->need(')');
        }

        return $text;
    }

    private function operand(): Operand
    {
        $left = $this->product();
        while (($sign = $this->words->take('+') ? '+' : ($this->words->take('-') ? '-' : null)) !== null) {
            $left = $this->sum($sign, $left, $this->product());
        }

        return $left;
    }

    private function product(): Operand
    {
        $left = $this->single();
        while ($this->words->take('*')) {
            $left = $this->sum('*', $left, $this->single());
        }

        return $left;
    }

    private function sum(string $sign, Operand $left, Operand $right): Sum
    {
        return $left->kind() === Kind::Number && $right->kind() === Kind::Number
            ? new Sum($sign, $left, $right)
            : throw NotRead::kinds($left->words(), $right->words());
    }

    private function single(): Operand
    {
        $this->deeper();
        try {
            if ($this->words->take('(')) {
                $operand = $this->operand();
                $this->words->need(')');
            } else {
                $operand = $this->constant() ?? $this->named();
            }
        } finally {
            $this->depth--;
        }
        $kind = $this->cast();

        return $kind !== null && $operand instanceof Constant ? new Constant($operand->value, $kind) : $operand;
    }

    private function constant(): ?Constant
    {
        $words = $this->words;
        $sign = $words->take('-') ? '-' : '';
        $number = $words->taken('number');
        if ($number !== null || $sign !== '') {
            return new Constant($sign.($number ?? throw NotRead::at($words->says())), Kind::Number);
        }
        $isDate = $words->take('date') || $words->take('timestamp');
        $text = $words->taken('text');

        return match (true) {
            $text !== null => new Constant($text, $isDate ? Kind::Date : Kind::Text),
            $isDate => throw NotRead::at('date'),
            $words->take('true') => new Constant('1', Kind::Number),
            $words->take('false') => new Constant('0', Kind::Number),
            default => null,
        };
    }

    private function named(): Operand
    {
        $quoted = $this->words->taken('name');
        $name = $quoted ?? $this->words->taken('word') ?? throw NotRead::at($this->words->says());
        if ($quoted === null && $this->words->take('(')) {
            $of = $this->operand();
            $this->words->need(')');

            return Measure::by($name, $of) ?? throw NotRead::function($name);
        }
        foreach ($this->entity->fields as $field) {
            if (strcasecmp($field->name, $name) === 0 && ! $field->type instanceof SetType) {
                return new FieldValue($field);
            }
        }
        throw NotRead::at($name);
    }

    /** "::text", "::character varying(20)[]" of PostgreSQL: what it makes of a constant, null for what changes nothing. */
    private function cast(): ?Kind
    {
        $kind = null;
        while ($this->words->take('::')) {
            $type = '';
            while (($word = $this->words->taken('word')) !== null) {
                $type .= $word;
                // Words that belong to a type of more than one word.
                if (! in_array($word, ['character', 'double', 'timestamp', 'without', 'time', 'with'], true)) {
                    break;
                }
            }
            if ($this->words->take('(')) {
                while ($this->words->taken('number') !== null || $this->words->take(',')) {
                    continue;
                }
                $this->words->need(')');
            }
            if ($this->words->take('[')) {
                $this->words->need(']');
            }
            $kind = match (true) {
                str_starts_with($type, 'date'), str_starts_with($type, 'timestamp') => Kind::Date,
                preg_match('/^(numeric|integer|bigint|smallint|double|real)/', $type) === 1 => Kind::Number,
                default => $kind,
            };
        }

        return $kind;
    }
}
