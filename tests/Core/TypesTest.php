<?php

namespace Tests\Core;

use Baggage\Core\Targets\ColumnReading;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Refusal;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class TypesTest extends TestCase
{
    /** @return iterable<array{string, list<string>, string|int|bool, string}> column type, checks, value, what becomes of it */
    public static function values(): iterable
    {
        // MariaDB 10.11 manual, Numeric Data Type Overview: ranges of the integer types.
        yield ['tinyint(4)', [], '127', '127'];
        yield ['tinyint(4)', [], '128', '!out_of_range'];
        yield ['smallint(5) unsigned', [], '65535', '65535'];
        yield ['smallint(5) unsigned', [], '-1', '!out_of_range'];
        yield ['int(11)', [], '-2147483648', '-2147483648'];
        yield ['bigint(20) unsigned', [], '18446744073709551615', '18446744073709551615'];
        yield ['bigint(20) unsigned', [], '18446744073709551616', '!out_of_range'];
        yield ['int(11)', [], '7.00', '7'];
        yield ['int(11)', [], '7.5', '!not_a_number'];
        yield ['decimal(5,2)', [], '9.6', '9.60'];
        yield ['decimal(5,2)', [], '-0.004', '!too_many_decimals'];
        yield ['decimal(5,2)', [], '-0.000', '0.00'];
        yield ['decimal(5,2)', [], '999.99', '999.99'];
        yield ['decimal(5,2)', [], '1000', '!out_of_range'];
        yield ['decimal(5,2)', [], '1e3', '!not_a_number'];
        yield ['date', [], '2003-02-28', '2003-02-28'];
        yield ['date', [], '2003-02-31', '!not_a_date'];
        yield ['date', [], '2003-02-28 10:00', '!not_a_date'];
        yield ['datetime', [], '2003-02-28T10:00', '2003-02-28 10:00:00'];
        yield ['datetime', [], '2003-02-28 25:00', '!not_a_date'];
        yield ['tinyint(1)', [], true, '1'];
        yield ['tinyint(1)', [], 'yes', '!not_a_boolean'];
        yield ['varchar(5)', [], 'Ærøsk', 'Ærøsk'];
        yield ['varchar(5)', [], 'Ærøskø', '!too_long'];
        yield ["enum('a','it''s')", [], "it's", "it's"];
        yield ["enum('a','b')", [], 'A', '!not_allowed'];
        yield ["ENUM('PG','G','Not Rated')", [], 'PG', 'PG'];
        yield ["enum('PG','G')", [], 'pg', '!not_allowed'];
        // As MariaDB keeps it: in the order of the list, each value once.
        yield ["set('Trailers','Deleted Scenes','B')", [], 'Deleted Scenes, Trailers,Deleted Scenes', 'Trailers,Deleted Scenes'];
        yield ["set('a','b')", [], 'a,c', '!not_allowed'];
        yield ['tinyint(1)', [], 'false', '0'];
        yield ['tinyint(1)', [], 'TRUE', '1'];
        yield ['varchar(12)', ["`kind` in ('person','organisation')"], 'firm', '!not_allowed'];
        yield ['varchar(12)', ['`kind` is null or `kind` >= 3'], 'firm', 'firm'];
    }

    /** @param  list<string>  $checks */
    #[DataProvider('values')]
    public function test_what_a_field_takes(string $type, array $checks, string|int|bool $value, string $expected): void
    {
        $read = ColumnReading::type('kind', $type, 5 + 7 * (int) str_contains($type, '12'), $checks);
        $accepted = $read->accept($value);
        self::assertSame($expected, $accepted instanceof Refusal ? "!$accepted->code" : $accepted);
        self::assertEquals($read, Field::fromArray((new Field('kind', $read))->toArray())->type);
    }
}
