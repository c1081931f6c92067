<?php

namespace Tests\Core;

use Baggage\Core\Mapping\Suggester;
use Baggage\Core\Profiling\ColumnProfile;
use Baggage\Core\Profiling\ValueBudget;
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
            fn (Field $f, $c) => $f->refers !== null
                ? ($c->name === 'owner_no'
                    ? "parent(owner_no, 'BB')"
                    : null)
                : "code('types', $c->name)",
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
        $known = fn (Field $f, $c) => $f->name === 'agent' && $c->name === 'xq7' ? "parent(xq7, 'A')" : null;
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
        self::assertSame('its values name rows of the parent', $found['agent']->reason);
        self::assertStringStartsWith('the only pair of its kind', $found['left_on']->reason);
    }
}
