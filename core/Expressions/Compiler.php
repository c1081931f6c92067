<?php

namespace Baggage\Core\Expressions;

use Baggage\Core\Reading\Columns;
use Symfony\Component\ExpressionLanguage\Lexer;
use Symfony\Component\ExpressionLanguage\Node\ArgumentsNode;
use Symfony\Component\ExpressionLanguage\Node\ArrayNode;
use Symfony\Component\ExpressionLanguage\Node\BinaryNode;
use Symfony\Component\ExpressionLanguage\Node\ConditionalNode;
use Symfony\Component\ExpressionLanguage\Node\ConstantNode;
use Symfony\Component\ExpressionLanguage\Node\FunctionNode;
use Symfony\Component\ExpressionLanguage\Node\GetAttrNode;
use Symfony\Component\ExpressionLanguage\Node\NameNode;
use Symfony\Component\ExpressionLanguage\Node\Node;
use Symfony\Component\ExpressionLanguage\Node\NullCoalesceNode;
use Symfony\Component\ExpressionLanguage\Node\UnaryNode;
use Symfony\Component\ExpressionLanguage\Parser;
use Symfony\Component\ExpressionLanguage\SyntaxError;

/**
 * Turns an expression over the columns of a feed into a Rule.
 *
 * symfony/expression-language parses; this class walks its tree and knows every kind of node that may occur, so
 * nothing but columns, literals, our operators and the catalogue's functions can be reached. It writes PHP of
 * static calls only, because a rule runs for every row.
 */
final class Compiler
{
    private const LONGEST = 4000;

    private static ?Parser $parser = null;

    /** @var array<int, true> */
    private array $used = [];

    /** @var array<string, true> */
    private array $codes = [];

    /** @var array<string, int> */
    private array $codeColumns = [];

    /** @var list<Call> */
    private array $calls = [];

    /** @param  Columns|null  $columns  null where they are not known yet: then any name may be one */
    public function __construct(private readonly ?Columns $columns)
    {
    }

    /** @throws ExpressionError */
    public function compile(string $expression): Rule
    {
        $this->used = $this->codes = $this->codeColumns = $this->calls = [];
        $node = $this->parse($expression);
        $php = $this->php($node);
        /** @var \Closure(list<string|null>, Context): mixed $program */
        $program = eval("return static fn (array \$c, \\Baggage\\Core\\Expressions\\Context \$x) => $php;");
        $columns = array_keys($this->used);

        return new Rule(
            $expression,
            $program,
            $columns,
            array_keys($this->codes),
            $this->codeColumns,
            $this->calls,
        );
    }

    private function parse(string $expression): Node
    {
        if (trim($expression) === '') {
            throw ExpressionError::empty();
        }
        if (strlen($expression) > self::LONGEST) {
            throw ExpressionError::tooLong(self::LONGEST);
        }
        if (! mb_check_encoding($expression)) {
            // A sign whose end is missing is replaced once, whatever it has of bytes.
            throw ExpressionError::notUtf8(1 + strspn($expression ^ mb_scrub($expression), "\0"));
        }
        self::$parser ??= new Parser(array_fill_keys(array_keys(Catalogue::entries()), []));
        try {
            $tokens = (new Lexer)->tokenize($expression);

            return $this->columns === null
                ? self::$parser->parse($tokens, [], Parser::IGNORE_UNKNOWN_VARIABLES)
                : self::$parser->parse($tokens, ['row', ...array_keys($this->columns->byName())]);
        } catch (SyntaxError $e) {
            throw $this->explained($e);
        }
    }

    private function explained(SyntaxError $e): ExpressionError
    {
        preg_match('/^(.*?) around position (\d+)/s', $e->getMessage(), $m);
        $what = $m[1] ?? $e->getMessage();
        // The lexer counts from 0, the parser's cursors from 1.
        $next = preg_match('/^(?:Unclosed|Unexpected character|Unexpected ")/', $what) === 1 ? 1 : 0;
        $position = (int) ($m[2] ?? 1) + $next;
        $position = max(1, $position);
        preg_match('/Did you mean "([^"]+)"\?/', $e->getMessage(), $near);
        if (preg_match('/^Variable "([^"]+)" is not valid/', $what, $name) === 1) {
            $what = "This feed has no column \"$name[1]\"";
        } elseif (preg_match('/^The function "([^"]+)" does not exist/', $what, $name) === 1) {
            $what = "There is no function \"$name[1]\"";
        } elseif (preg_match('/^Unexpected token "end of expression"/', $what) === 1) {
            $what = 'The rule ends too early';
        } elseif (preg_match('/^Unexpected token "[^"]*" of value "([^"]*)"/', $what, $name) === 1) {
            $what = "\"$name[1]\" is not expected here";
        }

        return ExpressionError::at($what, $position, $near[1] ?? null);
    }

    private function php(Node $node): string
    {
        return match (true) {
            $node instanceof ConstantNode => $this->constant($node->attributes['value']),
            $node instanceof NameNode => $this->column($node->attributes['name']),
            $node instanceof GetAttrNode => $this->exactColumn($node),
            $node instanceof FunctionNode => $this->call($node),
            $node instanceof BinaryNode => $this->binary($node),
            $node instanceof UnaryNode => match ($node->attributes['operator']) {
                '-' => '\\'.Operators::class.'::negate('.$this->php($node->nodes['node']).')',
                '+' => $this->php($node->nodes['node']),
                '!', 'not' => '!'.$this->truth($node->nodes['node']),
                default => throw ExpressionError::notBefore($node->attributes['operator']),
            },
            $node instanceof ConditionalNode => '('.$this->truth($node->nodes['expr1']).' ? '
                .$this->php($node->nodes['expr2']).' : '.$this->php($node->nodes['expr3']).')',
            $node instanceof NullCoalesceNode => '('.$this->php($node->nodes['expr1']).' ?? '
                .$this->php($node->nodes['expr2']).')',
            $node instanceof ArgumentsNode, $node instanceof ArrayNode => $this->list($node),
            default => throw ExpressionError::notInRules($node->dump()),
        };
    }

    private function constant(mixed $value): string
    {
        // A written decimal stays the decimal that was written.
        return var_export(is_float($value) ? json_encode($value) : $value, true);
    }

    private function column(string $name): string
    {
        if ($this->columns === null && $name !== 'row') {
            return 'null';
        }
        $at = $this->columns?->byName()[$name] ?? null;
        if ($at === null) {
            throw ExpressionError::notAlone($name);
        }
        $this->used[$at] = true;

        return "\$c[$at]";
    }

    private function exactColumn(GetAttrNode $node): string
    {
        $of = $node->nodes['node'];
        $key = $node->nodes['attribute'];
        if (
            $node->attributes['type'] !== GetAttrNode::ARRAY_CALL
            || ! ($of instanceof NameNode)
            || $of->attributes['name'] !== 'row'
            || ! ($key instanceof ConstantNode)
            || ! is_string($key->attributes['value'])
        ) {
            throw ExpressionError::onlyRow();
        }
        $header = $key->attributes['value'];
        if ($this->columns === null) {
            return 'null';
        }
        $at = $this->columns->byHeader()[$header]
            ?? throw ExpressionError::noHeader($header);
        $this->used[$at] = true;

        return "\$c[$at]";
    }

    private function call(FunctionNode $node): string
    {
        $name = $node->attributes['name'];
        $entry = Catalogue::entries()[$name];
        $arguments = array_values($node->nodes['arguments']->nodes);
        $count = count($arguments);
        if ($count < $entry->leastArguments || $count > $entry->mostArguments) {
            $wanted = $entry->leastArguments === $entry->mostArguments
                ? (string) $entry->leastArguments
                : ($entry->mostArguments === PHP_INT_MAX
                    ? "at least $entry->leastArguments"
                    : "$entry->leastArguments to $entry->mostArguments");
            throw ExpressionError::arguments("$name({$entry->described->arguments})", (string) $wanted, $count);
        }
        $this->note($name, $arguments);
        $php = array_map($this->php(...), $arguments);
        if ($entry->described->needsContext) {
            array_unshift($php, '$x');
        }

        return '\\'.$entry->class.'::'.$entry->method.'('.implode(', ', $php).')';
    }

    /** @param  list<Node>  $arguments */
    private function note(string $function, array $arguments): void
    {
        $literal = fn (int $i) => isset($arguments[$i]) && $arguments[$i] instanceof ConstantNode
            ? (string) $arguments[$i]->attributes['value']
            : null;
        $list = ($arguments[0] ?? null) instanceof ArrayNode ? intdiv(count($arguments[0]->nodes), 2) : null;
        $texts = array_map($literal, array_keys($arguments));
        $this->calls[] = new Call($function, $texts, $list);
        $formats = match ($function) {
            'date', 'date_time' => array_slice($texts, 1),
            'date_from' => array_slice($texts, 2),
            default => [],
        };
        foreach ($formats as $format) {
            $unknown = Functions\Dates::unknownLetter((string) $format);
            if ($unknown !== null) {
                throw ExpressionError::noDateLetter((string) $format, $unknown);
            }
        }
        if ($function === 'code_or' && $literal(0) !== null) {
            $this->codes[$literal(0)] = true;
        }
        if ($function === 'code' && $literal(0) !== null) {
            $this->codes[$literal(0)] = true;
            $column = $arguments[1];
            while ($column instanceof FunctionNode) {
                $column = array_values($column->nodes['arguments']->nodes)[0] ?? null;
            }
            $at = match (true) {
                $column instanceof NameNode => $this->columns?->byName()[$column->attributes['name']] ?? null,
                $column instanceof GetAttrNode && $column->nodes['attribute'] instanceof ConstantNode => $this
                    ->columns?->byHeader()[$column->nodes['attribute']->attributes['value']] ?? null,
                default => null,
            };
            if ($at !== null) {
                $this->codeColumns[$literal(0)] = $at;
            }
        }
    }

    private function binary(BinaryNode $node): string
    {
        $operator = $node->attributes['operator'];
        $op = '\\'.Operators::class;
        if (in_array($operator, ['and', '&&', 'or', '||', 'xor'], true)) {
            $word = match ($operator) {
                'and', '&&' => '&&',
                'xor' => 'xor',
                default => '||',
            };

            return '('.$this->truth($node->nodes['left'])." $word ".$this->truth($node->nodes['right']).')';
        }
        $right = $node->nodes['right'];
        $pattern = $operator === 'matches' && $right instanceof ConstantNode ? (string) $right->attributes['value'] : null;
        if ($pattern !== null && @preg_match($pattern, '') === false) {
            throw ExpressionError::noPattern($pattern);
        }
        $a = $this->php($node->nodes['left']);
        $b = $this->php($node->nodes['right']);

        return match ($operator) {
            '~' => "$op::join($a, $b)",
            '+', '-', '*', '/', '%' => "$op::arithmetic('$operator', $a, $b)",
            '==', '===' => "$op::equal($a, $b)",
            '!=', '!==' => "!$op::equal($a, $b)",
            '<' => "$op::less($a, $b)",
            '>' => "$op::less($b, $a)",
            '<=' => "$op::lessOrEqual($a, $b)",
            '>=' => "$op::lessOrEqual($b, $a)",
            'in' => "$op::in($a, $b)",
            'not in' => "!$op::in($a, $b)",
            'contains' => "$op::contains($a, $b)",
            'starts with' => "$op::startsWith($a, $b)",
            'ends with' => "$op::endsWith($a, $b)",
            'matches' => "$op::matches($a, $b)",
            default => throw ExpressionError::noOperator($operator),
        };
    }

    private function truth(Node $node): string
    {
        return '\\'.Operators::class.'::truth('.$this->php($node).')';
    }

    private function list(ArrayNode $node): string
    {
        $items = [];
        // The parser keeps keys and values in turn; only plain lists mean anything here.
        foreach (array_chunk(array_values($node->nodes), 2) as [$key, $value]) {
            $items[] = $this->php($value);
        }

        return '['.implode(', ', $items).']';
    }
}
