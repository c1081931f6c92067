<?php

namespace Tests\Core;

use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Conditions\Record;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\ChoiceType;
use Baggage\Core\Targets\Types\DateType;
use Baggage\Core\Targets\Types\DecimalType;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Clauses of CHECKs in words, and tried. Held against a database in Feature\ConditionsAgainstDatabaseTest. */
final class ConditionsTest extends TestCase
{
    private static function entity(string $clause): Entity
    {
        return new Entity('berth', 'id', [
            new Field('id', new IntegerType('0', '9'), true, true),
            new Field('places', new IntegerType('-100', '100')),
            new Field('depth', new DecimalType(8, 2)),
            new Field('length', new DecimalType(8, 2)),
            new Field('code', new TextType(20)),
            new Field('side', new ChoiceType(['N', 'S'])),
            new Field('opened', new DateType),
            new Field('closed', new DateType(true)),
        ], [], [$clause]);
    }

    /** @return iterable<array{string, string, array<string, string|null>, bool|null}> clause, words, values, whether it holds */
    public static function clauses(): iterable
    {
        $of = fn (string $field, ?string $value) => [$field => $value];
        yield ['`places` > 0', 'places is more than 0', $of('places', '1'), true];
        yield ['`places` > 0', 'places is more than 0', $of('places', '0'), false];
        yield ['`places` > 0', 'places is more than 0', $of('places', null), null];
        yield ['(`places` between 1 and 5)', 'places is from 1 to 5', $of('places', '6'), false];
        yield ['`places` not between 1 and 5', 'places is not from 1 to 5', $of('places', '5'), false];
        yield ['`places` in (1,2,3)', 'places is one of 1, 2, 3', $of('places', '4'), false];
        yield ['`places` not in (1,-2)', 'places is none of 1, -2', $of('places', '-2'), false];
        yield ['`depth` <= `length` * 2', 'depth is at most length * 2', ['depth' => '4.01', 'length' => '2.00'], false];
        yield ['(`depth` + 1) * 2 < 5', '(depth + 1) * 2 is less than 5', $of('depth', '1.49'), true];
        yield ['char_length(`code`) >= 3', 'code has at least 3 characters', $of('code', 'éé'), false];
        yield ['octet_length(`code`) between 2 and 4', 'code has 2 to 4 bytes', $of('code', 'éé'), true];
        yield ['trim(`code`) <> \'\'', 'code without blanks around it is not an empty text', $of('code', '  '), false];
        yield ["`code` regexp '^[A-Z]{2}[0-9]+\$'", 'code matches ^[A-Z]{2}[0-9]+$', $of('code', 'AB1'), true];
        yield ["`code` regexp '^[A-Z]{2}[0-9]+\$'", 'code matches ^[A-Z]{2}[0-9]+$', $of('code', 'A1'), false];
        // Whether capitals count is the collation's affair.
        yield ["`code` regexp '^[A-Z]{2}[0-9]+\$'", 'code matches ^[A-Z]{2}[0-9]+$', $of('code', 'ab1'), null];
        yield ["`code` = 'open'", 'code is open', $of('code', 'Open'), null];
        yield ["`code` = 'open'", 'code is open', $of('code', 'shut'), false];
        yield ["`code` like 'A\\\\_%'", 'code is like A\\_%', $of('code', 'A_1'), true];
        yield ["`code` like 'A\\\\_%'", 'code is like A\\_%', $of('code', 'AB1'), false];
        yield ["`opened` >= '2000-01-01'", 'opened is not before 2000-01-01', $of('opened', '1999-12-31'), false];
        yield ["`opened` >= DATE'2000-01-01'", 'opened is not before 2000-01-01', $of('opened', '2000-01-01'), true];
        yield ['`closed` is null or `closed` > `opened`', 'closed is empty, or closed is after opened',
            ['opened' => '2001-01-01', 'closed' => '2001-01-01 00:00:00'], false];
        yield ['`closed` is null or `closed` > `opened`', 'closed is empty, or closed is after opened',
            ['opened' => '2001-01-01', 'closed' => null], true];
        yield ['!(`code` regexp \' \')', 'code does not match  ', $of('code', 'a b'), false];
        yield ['not (`places` > 1 and `depth` > 1)', 'places is at most 1, or depth is at most 1',
            ['places' => '2', 'depth' => '2.00'], false];
        yield ['year(`opened`) >= 1990', 'the year of opened is at least 1990', $of('opened', '1989-12-31'), false];
        // As PostgreSQL 15 states them (pg_get_constraintdef).
        yield [Condition::plain("CHECK (((code)::text = ANY ((ARRAY['a'::character varying, 'b'::character varying])::text[])))"),
            'code is one of a, b', $of('code', 'c'), false];
        yield [Condition::plain("CHECK (((code)::text ~ '^\\d+\$'::text))"), 'code matches ^\\d+$', $of('code', 'x'), false];
        yield [Condition::plain("CHECK (((places > 0) AND (opened >= '2000-01-01'::date)))"),
            'places is more than 0', $of('places', '0'), false];
        yield [Condition::plain('CHECK (depth > (0)::numeric)'), 'depth is more than 0', $of('depth', '0.00'), false];
    }

    /** @param  array<string, string|null>  $values */
    #[DataProvider('clauses')]
    public function test_a_clause_is_read(string $clause, string $words, array $values, ?bool $holds): void
    {
        $condition = Condition::of(self::entity($clause))[0];
        self::assertSame($words, $condition->words());
        self::assertSame($holds, $condition->holds(new Record($values)));
        if (count($condition->fields) === 1 && ! str_contains($words, ', ')) {
            $beside = preg_replace('/^'.$condition->fields[0].' (is |has )?/', '', $words);
            self::assertSame($beside, $condition->wordsBeside($condition->fields[0]));
        }
    }

    /** @return iterable<array{string, string}> clause and part of why it is not read */
    public static function unread(): iterable
    {
        yield ['json_valid(`code`)', 'json_valid()'];
        yield ["`code` > 'a'", 'how the texts of code sort'];
        yield ['`opened` > 5', 'different kinds'];
        yield ["`code` regexp '('", 'pattern'];
        yield ['`unheard` > 5', 'unheard'];
        yield ['`places` >', 'its end'];
        yield ['`places` > 0 garbage', 'garbage'];
        yield ['', 'its end'];
        yield [str_repeat('(', 400).'`places` > 0'.str_repeat(')', 400), 'too long'];
        yield [str_repeat('((', 12).'`places`', 'its end'];
        yield ['`places` in ('.str_repeat('1,', 5000).'1)', 'too long'];
        yield ["`code` = '\xFF'", 'too long'];
        yield ['if(`places` > 0, 1, 0) = 1', '">"'];
        yield ['`places` / 2 > 1', '"/"'];
    }

    #[DataProvider('unread')]
    public function test_what_is_not_read_is_said(string $clause, string $why): void
    {
        $condition = Condition::of(self::entity($clause))[0];
        self::assertFalse($condition->isRead());
        self::assertStringContainsString('is not read', $condition->words());
        self::assertStringContainsString($why, (string) $condition->why);
        self::assertNull($condition->holds(new Record(['places' => '1', 'code' => 'x'])));
    }

    public function test_a_list_that_is_the_type_is_not_told_twice_and_parts_of_and_stand_alone(): void
    {
        self::assertSame([], Condition::of(self::entity("`side` in ('N','S')")));
        $parts = Condition::of(self::entity('`places` > 0 and `depth` > 0'));
        self::assertSame([['places'], ['depth']], array_map(fn (Condition $c) => $c->fields, $parts));
        // A field named in a text is not meant.
        self::assertSame(['code'], Condition::of(self::entity("concat(`code`, 'depth') = 'x'"))[0]->fields);
    }

    public function test_checks_travel_with_the_entity(): void
    {
        $entity = self::entity('`places` > 0');
        self::assertEquals($entity, Entity::fromArray($entity->toArray()));
        self::assertArrayNotHasKey('checks', (new Entity('a', 'id', []))->toArray());
    }
}
