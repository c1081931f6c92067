<?php

namespace Tests\Core;

use Baggage\Core\Mapping\Evidence;
use Baggage\Core\Mapping\Known;
use Baggage\Core\Mapping\ListEvidence;
use Baggage\Core\Mapping\Suggester;
use Baggage\Core\Mapping\Words;
use Baggage\Core\Profiling\ColumnProfile;
use Baggage\Core\Profiling\ValueBudget;
use Baggage\Core\Reading\Column;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\BooleanType;
use Baggage\Core\Targets\Types\ChoiceType;
use Baggage\Core\Targets\Types\DateType;
use Baggage\Core\Targets\Types\DecimalType;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\TestCase;

final class SuggesterTest extends TestCase
{
    /** @param  array<string, array<string, Evidence>>  $of  field → column → what speaks for it */
    private static function known(array $of, ?string $key = null): Known
    {
        return new class($of, $key) implements Known
        {
            public function __construct(private readonly array $of, private readonly ?string $key)
            {
            }

            public function reference(Field $field, Column $column): ?Evidence
            {
                return $this->of[$field->name][$column->name] ?? null;
            }

            public function list(Field $field, array $allowed, Column $column): ?Evidence
            {
                return $this->of[$field->name][$column->name] ?? null;
            }

            public function isLegacyKey(Column $column): bool
            {
                return $column->name === $this->key;
            }
        };
    }

    public function test_words_kinds_and_what_is_known_make_suggestions(): void
    {
        $data = [
            'CRAFT_NAME' => ['Skarv', 'Tirrick of the Sound', 'Bonxie'],
            'REG_NO' => ['SS 101', 'SS 102', 'SS 103'],
            'OWNER_NO' => ['00417', '00418', '00419'],
            'CRAFT_TYPE' => ['YT', 'YT', 'TUG'],
            'BUILT_DT' => ['31/12/1998', '01/02/2003', '15/06/2001'],
            'LOA' => ['9,5', '12,25', '7,1'],
            'INSURED' => ['Y', 'N', 'Y'],
            'SURVEY_DT' => ['01/02/2003', '05/06/2001', '03/04/1999'],
            'EMPTY' => ['', '', ''],
        ];
        $facts = [];
        foreach ($data as $cells) {
            $column = new ColumnProfile(new ValueBudget);
            $column->add($cells, range(1, count($cells)));
            $facts[] = $column->finish()->toArray();
        }
        $entity = new Entity('craft', 'id', [
            new Field('id', new IntegerType('1', '9'), true, true),
            new Field('name', new TextType(40), true),
            new Field('registration', new TextType(12)),
            new Field('owner', new IntegerType('1', '9'), true, false, 'party'),
            new Field('type', new ChoiceType(['sail', 'tug'])),
            new Field('built', new DateType),
            new Field('length_m', new DecimalType(5, 2)),
            new Field('insured', new BooleanType),
            new Field('survey', new DateType),
            new Field('colour', new TextType(10)),
            new Field('empty', new TextType(10)),
        ]);
        $found = Suggester::for(
            $entity,
            array_keys($entity->writable()),
            Columns::fromHeaders(array_keys($data)),
            $facts,
            [],
            self::known([
                'owner' => ['owner_no' => new Evidence("parent(owner_no, 'BB')", 'its values are keys of people', 0.75)],
                'type' => ['craft_type' => new Evidence("code('types', craft_type)", 'the code crosswalk knows its values', 0.6)],
            ]),
        );
        $this->suggestedWithReasons($found);
    }

    private function suggestedWithReasons(array $found): void
    {
        self::assertEquals(
            [
                'name' => 'tidy(craft_name)',
                'registration' => 'trim(reg_no)',
                'owner' => "parent(owner_no, 'BB')",
                'type' => "code('types', craft_type)",
                'built' => "date(built_dt, 'd/m/Y')",
                'length_m' => "decimal(loa, ',')",
                'insured' => 'yes_no(insured)',
            ],
            array_map(fn ($s) => $s->expression, $found),
        );
        // Day and month cannot be told apart in the surveys, so nothing is suggested for them; nothing resembles colour.
        self::assertArrayNotHasKey('survey', $found);
        self::assertStringContainsString('same word "name"', $found['name']->reason);
        self::assertStringContainsString('d/m/Y', $found['built']->reason);
    }

    /** Names in another language: words that stand for each other, values, and the only pair of a kind. */
    public function test_names_of_another_language_meet_their_fields(): void
    {
        $data = [
            'KUNDE_NAME' => ['Anna Berg', 'Kai Lund', 'Jo Aas'],
            'STRASSE' => ['Am Kai 1', 'Hafen 2', 'Mole 3'],
            'PLZ' => ['24103', '24105', '24106'],
            'ORT' => ['Kiel', 'Kiel', 'Laboe'],
            'XQ7' => ['00417', '00418', '00419'],
            'ABGANG' => ['31.12.1998', '01.02.2003', '15.06.2001'],
            'GESPERRT' => ['J', 'N', 'J'],
            'BETRAG' => ['9,50', '12,25', '7,10'],
        ];
        $facts = [];
        foreach ($data as $cells) {
            $column = new ColumnProfile(new ValueBudget);
            $column->add($cells, range(1, count($cells)));
            $facts[] = $column->finish()->toArray();
        }
        $entity = new Entity('customer', 'id', [
            new Field('name', new TextType(40), true),
            new Field('street', new TextType(40)),
            new Field('postcode', new TextType(10)),
            new Field('city', new TextType(40)),
            new Field('agent', new IntegerType('1', '9'), false, false, 'agent'),
            new Field('left_on', new DateType),
            new Field('blocked', new BooleanType),
            new Field('amount', new DecimalType(8, 2)),
        ]);
        $known = self::known(['agent' => ['xq7' => new Evidence("parent(xq7, 'A')", '3 of its 3 values are keys of agents', 0.75)]]);
        $found = Suggester::for($entity, array_keys($entity->writable()), Columns::fromHeaders(array_keys($data)), $facts, [], $known);
        self::assertEquals(
            [
                'name' => 'tidy(kunde_name)',
                'street' => 'tidy(strasse)',
                'postcode' => 'trim(plz)',
                'city' => 'tidy(ort)',
                'agent' => "parent(xq7, 'A')",
                'left_on' => "date(abgang, 'd.m.Y')",
                'blocked' => 'yes_no(gesperrt)',
                'amount' => "decimal(betrag, ',')",
            ],
            array_map(fn ($s) => $s->expression, $found),
        );
        self::assertSame('3 of its 3 values are keys of agents', $found['agent']->reason);
        self::assertStringStartsWith('the only pair of its kind', $found['left_on']->reason);
    }

    /** @param  array<string, list<string>>  $data */
    private static function suggested(Entity $entity, array $data, Known $known): array
    {
        $facts = [];
        foreach ($data as $cells) {
            $column = new ColumnProfile(new ValueBudget);
            $column->add($cells, range(1, count($cells)));
            $facts[] = $column->finish()->toArray();
        }

        return Suggester::for($entity, array_keys($entity->writable()), Columns::fromHeaders(array_keys($data)), $facts, [], $known);
    }

    /** No word is shared: keys, lists, patterns of the target and looks speak, each with its figures. */
    public function test_values_alone_make_suggestions_with_figures(): void
    {
        $entity = new Entity('member', 'id', [
            new Field('reference', new TextType(12), true),
            new Field('standing', new ChoiceType(['gold', 'silver', 'bronze'])),
            new Field('email', new TextType(60)),
            new Field('postal', new TextType(20)),
        ], [['reference']], ["`postal` regexp '^[A-Z]{2}[0-9]{3}$'"]);
        $data = [
            'X1' => ['M-0001', 'M-0002', 'M-0003', 'M-0004'],
            'X2' => ['Gold', 'SILVER', 'gold', 'lead'],
            'X3' => ['ann@sound.example', 'bo@sound.example', 'cy@quay.example', 'di@quay.example'],
            'X4' => ['OS101', 'OS102', 'IK331', 'OS101'],
        ];
        $known = self::known([
            'standing' => ['x2' => ListEvidence::of(
                Columns::fromHeaders(['X1', 'X2'])->all[1], ['gold', 'silver', 'bronze'], ['Gold', 'SILVER', 'lead'], 'member standing',
            )],
        ], 'x1');
        $found = self::suggested($entity, $data, $known);
        self::assertEquals([
            'reference' => 'trim(x1)',
            'standing' => "code('member standing', x2)",
            'email' => 'trim(x3)',
            'postal' => 'trim(x4)',
        ], array_map(fn ($s) => str_replace('tidy(', 'trim(', $s->expression), $found));
        self::assertStringContainsString('it is the legacy key: 4 different values in as many rows', $found['reference']->reason);
        self::assertStringContainsString('2 of its 3 values are allowed', $found['standing']->reason);
        self::assertStringContainsString('look like what "email" says', $found['email']->reason);
        self::assertStringContainsString("pass the target's check: postal matches", $found['postal']->reason);
    }

    /** Two columns that are as good as each other are not ticked; a column is never suggested twice. */
    public function test_what_is_not_plain_is_not_ticked(): void
    {
        $entity = new Entity('party', 'id', [new Field('phone', new TextType(20)), new Field('phone_mobile', new TextType(20))]);
        $data = ['TEL 1' => ['01 234567', '02 345678'], 'TEL 2' => ['03 456789', '04 567890'], 'TEL 3' => ['05 678901', '06 789012']];
        $found = self::suggested($entity, $data, self::known([]));
        self::assertNotSame($found['phone']->column, $found['phone_mobile']->column);
        self::assertSame([false, false], [$found['phone']->isSure, $found['phone_mobile']->isSure]);
    }

    /** A column that speaks against a field: not unique, too long, out of the range the target checks, another thing by its looks. */
    public function test_values_speak_against_a_column(): void
    {
        $entity = new Entity('party', 'id', [
            new Field('code', new TextType(4), true),
            new Field('name', new TextType(40)),
            new Field('height', new DecimalType(6, 2)),
        ], [['code']], ['`height` between 0 and 3']);
        $found = self::suggested($entity, [
            'CODE' => ['AAAAAA', 'AAAAAA', ''],
            'NAME' => ['a@b.example', 'c@d.example', 'e@f.example'],
            'HEIGHT' => ['170,5', '182,0', '165,3'],
        ], self::known([]));
        foreach ($found as $one) {
            self::assertFalse($one->isSure, "$one->field from $one->column");
        }
    }

    public function test_words_of_compounds_languages_and_abbreviations(): void
    {
        foreach ([
            'Rechnungsdatum' => ['invoice', 'date'],
            'KundenNummer' => ['party', 'number'],
            'HTTPStatusCode' => ['http', 'status', 'code'],
            'Adresse_Straße' => ['address', 'street'],
            'iso6391' => ['iso', '6391'],
            'CRAFT_NAME' => ['vessel', 'name'],
            'Leverdatum' => ['leverdatum'],
        ] as $name => $words) {
            self::assertSame($words, Words::in($name), $name);
        }
        foreach ([
            ['descr', 'description', 0.8], ['qnty', 'quantity', 0.6], ['name', 'name', 1.0], ['no', 'nominal', 0.0], ['town', 'tower', 0.0],
        ] as [$a, $b, $alike]) {
            self::assertSame($alike, Words::alike($a, $b), "$a, $b");
        }
    }
}
