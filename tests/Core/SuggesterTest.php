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
}
