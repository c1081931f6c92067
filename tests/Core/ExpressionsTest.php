<?php

namespace Tests\Core;

use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Expressions\Catalogue;
use Baggage\Core\Expressions\CatalogueEntry;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use Baggage\Core\Reading\Columns;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class ExpressionsTest extends TestCase
{
    private function apply(string $expression, string ...$cells): mixed
    {
        $columns = Columns::fromHeaders(
            $cells === [] ? ['Owner No.', 'loa_ft'] : array_map(fn ($i) => "c$i", array_keys($cells)),
        );

        return (new Compiler($columns))
            ->compile($expression)
            ->apply($cells === [] ? ['00417', '12'] : $cells, $this->context());
    }

    private function context(): Context
    {
        return new Context(['vessel types' => new CodeCrosswalk('vessel types', ['YT' => 'sail', 'X' => null])], 'BB', [
            'cutover_date' => '2026-12-31',
        ]);
    }

    /** @return iterable<string, array{CatalogueEntry}> */
    public static function catalogue(): iterable
    {
        foreach (Catalogue::entries() as $name => $entry) {
            yield $name => [$entry];
        }
    }

    #[DataProvider('catalogue')]
    public function test_every_example_of_the_catalogue(CatalogueEntry $entry): void
    {
        $given = $this->apply($entry->described->example);
        self::assertSame($entry->described->gives, $given === null ? null : Operators::text($given));
        self::assertNotSame('', $entry->described->meaning);
    }

    /** @return iterable<array{string, mixed}> */
    public static function worked(): iterable
    {
        yield ["owner_no ~ '-' ~ loa_ft", '00417-12'];
        yield ["row['Owner No.']", '00417'];
        // A binary computer's favourite trap; exact decimals do not fall into it.
        yield ['0.1 + 0.2', '0.3'];
        yield ['1 / 8', '0.125'];
        yield ["owner_no == '417'", false];
        yield ['owner_no == 417', true];
        yield ["loa_ft > 9 ? 'long' : 'short'", 'long'];
        yield ["loa_ft in ['11', '12']", true];
        yield ["not blank(owner_no) and owner_no starts with '00'", true];
        yield ["owner_no matches '/^0/'", true];
        // What stands for no in JSON and in most columns is no condition that holds.
        yield ["'false' ? 'yes' : 'no'", 'no'];
        yield ["'FALSE' or '0' or ' '", false];
        yield ["'true' and '1' and 'no'", true];
        // 27 ft 6 in: 1 in = 25.4 mm exactly (international yard and pound agreement, 1959).
        yield ["round(feet('27\\' 6\"'), 2)", '8.38'];
        // ISO 13616-1 worked examples for GB and DE.
        yield ["iban('GB29 NWBK 6016 1331 9268 19')", 'GB29NWBK60161331926819'];
        yield ["iban('DE89370400440532013000')", 'DE89370400440532013000'];
        // ISO/IEC 7812-1, annex B worked example.
        yield ["luhn('17893729974')", '17893729974'];
        // ITU-T E.164 through libphonenumber's example number for Norway.
        yield ["phone('406 12 345', 'NO')", '+4740612345'];
        // POSIX.1-2017, strptime %y.
        yield ["date('01/01/68', 'd/m/y') ~ date('01/01/69', 'd/m/y')", '2068-01-011969-01-01'];
        // Gregorian rule: 1900 was no leap year, 2000 was.
        yield ["date('29022000', 'dmY')", '2000-02-29'];
        yield ["date('5 Mar 1999', 'd/m/Y', 'd M Y')", '1999-03-05'];
        yield ["decimal('(1 234.5)') ~ '|' ~ decimal('-,5', ',')", '-1234.5|-0.5'];
        // common practice, no source
        yield ["person(\"O'SHEA, MARY-ANN\") ~ '|' ~ person('mcdonald, ian')", "Mary-Ann O'Shea|Ian McDonald"];
        yield ["org_key('The Müller & Co. GmbH') == org_key('MULLER AND CO')", true];
        yield ["org_key('Sound Marine p.l.c.')", 'soundmarine'];
    }

    #[DataProvider('worked')]
    public function test_worked_examples(string $expression, mixed $expected): void
    {
        self::assertSame($expected, $this->apply($expression));
    }

    /** @return iterable<array{string, string, string|null}> */
    public static function failures(): iterable
    {
        yield ["date('31/02/2003', 'd/m/Y')", 'not_a_date', '31/02/2003'];
        yield ["date('29/02/1900', 'd/m/Y')", 'not_a_date', '29/02/1900'];
        yield ['loa_ft / 0', 'division_by_zero', '12 / 0'];
        yield ["'abc' * 2", 'not_a_number', 'abc'];
        yield ["decimal('1,2,3')", 'not_a_number', '1,2,3'];
        yield ["code('vessel types', 'MFV')", 'no_new_value', 'MFV'];
        yield ["code('nothing', 'MFV')", 'no_code_crosswalk', 'nothing'];
        yield ["iban('GB28NWBK60161331926819')", 'bad_check_digit', 'GB28NWBK60161331926819'];
        yield ["email('p7.post.example')", 'not_an_email', 'p7.post.example'];
        yield ["owner_no matches ('/(a+)+$/((' ~ '')", 'bad_pattern', '00417'];
        yield ["pad(['a'], 3)", 'wrong_argument', null];
        yield ["check(1 > 2, owner_no, 'no berth')", 'check_failed', '00417'];
    }

    #[DataProvider('failures')]
    public function test_a_failing_rule_says_why_and_with_which_value(
        string $expression,
        string $reason,
        ?string $value,
    ): void {
        try {
            $this->apply($expression);
            self::fail('no failure');
        } catch (RuleFailure $e) {
            self::assertSame([$reason, $value], [$e->reason, $e->value]);
        }
    }

    /** @return iterable<array{string, string}> */
    public static function mistakes(): iterable
    {
        yield ['', 'The rule is empty'];
        yield ['upper(owner_n)', 'This feed has no column "owner_n", at character 7. Did you mean "owner_no"?'];
        yield ['uper(owner_no)', 'There is no function "uper", at character 1. Did you mean "upper"?'];
        yield ['upper(owner_no', 'Unclosed "(", at character 6.'];
        yield ['owner_no # 2', 'Unexpected character "#", at character 10.'];
        yield ['1 +', 'The rule ends too early'];
        yield ["upper('a' 'b')", 'separated by a comma'];
        yield ['pad()', 'takes 2 to 3 arguments, not 0'];
        yield ["row['Nobody']", 'no column with the header "Nobody"'];
        yield ['row', 'cannot stand alone'];
        // Nothing of PHP can be reached.
        yield ['constant("PHP_VERSION")', 'There is no function "constant"'];
        yield ['system("id")', 'There is no function "system"'];
        yield ['owner_no.format()', 'Only row['];
        yield ['owner_no.secret', 'Only row['];
        yield ['1..100000000', 'cannot be used in rules'];
        yield ['9 ** 99999', 'cannot be used in rules'];
        yield ["trim(\"a\xC3\x28\")", 'not all UTF-8: the first byte that is not is at character 8'];
        yield ["\xFF", 'at character 1'];
        yield [str_repeat('(', 300).'1'.str_repeat(')', 300), 'nest'];
        foreach (['not ', '-', '1 ? 2 : ', 'trim(', '[', '1 ** ', '1 ?? '] as $deep) {
            yield [substr(str_repeat($deep, 1500), 0, 3990).'1', $deep === 'trim(' || $deep === '[' ? 'Unclosed' : 'nest'];
        }
        yield [str_repeat('1+', 3000).'1', 'longer than'];
    }

    #[DataProvider('mistakes')]
    public function test_a_mistake_is_explained(string $expression, string $message): void
    {
        try {
            $this->apply($expression);
            self::fail('understood');
        } catch (ExpressionError $e) {
            self::assertStringContainsStringIgnoringCase($message, $e->getMessage());
        }
    }

    public function test_a_rule_knows_what_it_reads(): void
    {
        $rule = (new Compiler(Columns::fromHeaders(['A', 'Type', 'B'])))->compile(
            "code('vessel types', upper(type)) ~ b",
        );
        self::assertEqualsCanonicalizing([1, 2], $rule->columns);
        self::assertSame(['vessel types' => 1], $rule->codeColumns);
    }

    public function test_parents_are_named_by_source_and_parts(): void
    {
        self::assertEquals(new ParentKey('BB', ['00417']), $this->apply('parent(owner_no)'));
        self::assertEquals(new ParentKey('OF', ['00417', '12']), $this->apply("parent([owner_no, loa_ft], 'OF')"));
        self::assertNull($this->apply("parent('  ')"));
    }

    public function test_codes(): void
    {
        self::assertSame('sail', $this->apply("code('vessel types', ' YT ')"));
        self::assertNull($this->apply("code('vessel types', 'X')"));
        self::assertNull($this->apply("code('vessel types', '')"));
    }
}
