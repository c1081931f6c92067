<?php

namespace Tests\Core;

use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Expressions\RuleFailure;
use Baggage\Core\Feeds\Comparison;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Mapping\CodeSuggester;
use Baggage\Core\Mapping\HeaderNames;
use Baggage\Core\Mapping\RulesText;
use Baggage\Core\Reading\Columns;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class RulesTextTest extends TestCase
{
    public function test_rules_as_text_and_back(): void
    {
        $rules = [
            'name' => ['rule' => 'tidy(name)', 'empty' => null],
            'kind' => ['rule' => "a == 'x'\n? 'one'\n: 'two'", 'empty' => null],
            'fax' => ['rule' => null, 'empty' => 'nobody has one'],
            'note' => ['rule' => null, 'empty' => null],
        ];
        $text = RulesText::write($rules);
        self::assertSame(
            "name = tidy(name)\nkind = a == 'x'\n    ? 'one'\n    : 'two'\nfax left empty: nobody has one\nnote =\n",
            $text,
        );
        $parsed = RulesText::parse($text);
        self::assertSame([], $parsed['problems']);
        self::assertSame($rules, array_map(fn ($r) => ['rule' => $r['rule'], 'empty' => $r['empty']], $parsed['rules']));
        $parsed = RulesText::parse(
            "# all of it\n  a\nname == 1 = 2\nname = a\nname = b\nfax left empty:\r\nwhat is this\n",
        );
        self::assertSame([2, 4, 5, 6, 7], array_column($parsed['problems'], 'line'));
        self::assertStringContainsString('stands in line 3 already', $parsed['problems'][1]['message']);
    }

    /** @return iterable<array{HeaderNames, string, string}> */
    public static function headers(): iterable
    {
        yield [HeaderNames::Underscores, 'Größte Länge (m)', 'groesste_laenge_m'];
        yield [HeaderNames::Capitals, 'ownerNo.', 'OWNER_NO'];
        yield [HeaderNames::Camel, 'OWNER NO', 'ownerNo'];
        yield [HeaderNames::Pascal, 'date-of birth', 'DateOfBirth'];
        yield [HeaderNames::Hyphens, ' Fartøy  Nr ', 'fartoy-nr'];
        yield [HeaderNames::Joined, 'Post Code', 'postcode'];
        yield [HeaderNames::Underscores, 'Владелец', 'vladelec'];
    }

    // The letters by ICU's transforms "de-ASCII; Any-Latin; Latin-ASCII", ISO 9 for the Cyrillic one.
    #[DataProvider('headers')]
    public function test_headers_by_one_rule(HeaderNames $rule, string $header, string $name): void
    {
        self::assertSame($name, $rule->of($header));
    }

    public function test_what_a_code_crosswalk_does_with_values(): void
    {
        $rule = (new Compiler(Columns::fromHeaders(['t'])))->compile("code('types', t)");
        $try = function (CodeCrosswalk $table, ?string $value) use ($rule): ?string {
            try {
                return $rule->apply([$value], new Context(['types' => $table], 'BB'));
            } catch (RuleFailure $e) {
                return $e->reason;
            }
        };
        $table = fn (Otherwise $o, ?string $v = null) => new CodeCrosswalk(
            'types',
            ['A' => 'one', 'B' => null, '1' => 'number'],
            ['X'],
            $o,
            $v,
        );
        foreach (
            [
                [Otherwise::Reject, null, 'no_new_value'],
                [Otherwise::Leave, null, null],
                [Otherwise::Value, 'other', 'other'],
            ] as [$otherwise, $value, $unknown]
        ) {
            self::assertSame(
                ['one', null, 'number', 'code_rejected', $unknown, null],
                array_map(fn ($v) => $try($table($otherwise, $value), $v), [' A ', 'B', '1', 'X', 'Z', '  ']),
            );
        }
    }

    public function test_codes_are_suggested_with_a_reason(): void
    {
        $found = CodeSuggester::suggest(
            ['BARGE', 'mot.', 'YT', 'zz'],
            ['barge', 'motor', 'sail'],
            ['YT' => ['sail', '"types" of Before'], 'zz' => ['not allowed here', '"types" of Before']],
        );
        self::assertSame(
            [
                'BARGE' => ['new' => 'barge', 'reason' => 'the same letters', 'sure' => true],
                'mot.' => ['new' => 'motor', 'reason' => 'one begins with the other', 'sure' => true],
                'YT' => ['new' => 'sail', 'reason' => 'as in "types" of Before', 'sure' => true],
            ],
            $found,
        );
        // By the places in both lists only where it is asked for, and never ticked.
        self::assertSame([], CodeSuggester::suggest(['1', '2'], ['low', 'high']));
        self::assertSame(
            [
                '1' => ['new' => 'low', 'reason' => 'number 1 in both lists', 'sure' => false],
                '2' => ['new' => 'high', 'reason' => 'number 2 in both lists', 'sure' => false],
            ],
            array_map(fn ($s) => $s, CodeSuggester::suggest(['1', '2'], ['low', 'high'], byPlace: true)),
        );
        self::assertSame([], CodeSuggester::suggest(['1', '2', '3'], ['low', 'high']));
        // It begins two of them alike: it may be either.
        self::assertSame(
            [['new' => 'mooring fee', 'reason' => 'one begins with the other', 'sure' => false]],
            array_values(CodeSuggester::suggest(['moor'], ['mooring fee', 'mooring fees'])),
        );
    }

    public function test_feeds_say_what_they_are_made_of(): void
    {
        $a = [
            'combined' => 'join',
            'of' => ['A/x', 'B/y'],
            'on' => ['no' => 'id'],
            'compared' => 'person',
            'multiplies' => true,
        ];
        self::assertSame($a, FeedFormat::fromArray($a)->toArray());
        self::assertSame('A/x joined with B/y on no = id', FeedFormat::fromArray($a)->describe());
        foreach (
            [
                [['combined' => 'knit'], 'combined by one of join'],
                [['of' => ['A/x']], 'made of 2 extracts, not of 1'],
                [['of' => ['x', 'B/y']], 'by its source and its name'],
                [['compared' => 'loosely'], 'cannot be compared "loosely"'],
                [['combined' => 'distinct', 'of' => ['A/x']], 'columns they stand in'],
            ] as [$change, $says]
        ) {
            try {
                FeedFormat::fromArray($change + $a);
                self::fail($says);
            } catch (\InvalidArgumentException $e) {
                self::assertStringContainsString($says, $e->getMessage());
            }
        }
        $same = fn (string $how, string $x, string $y) => Comparison::named($how)->hash([$x])
            === Comparison::named($how)->hash([$y]);
        self::assertTrue(
            $same('person', 'Lie, Ann', 'ann LIE')
                && $same('number', '007', '7')
                && $same('organisation', 'Tarn Marine Ltd', 'TARN MARINE')
                && $same('trim', ' a', 'a '),
        );
        self::assertFalse($same('trim', 'a', 'A') || $same('exact', 'a ', 'a'));
        self::assertNull(Comparison::named('trim')->hash(['a', ' ']));
    }
}
