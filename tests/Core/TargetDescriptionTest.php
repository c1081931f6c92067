<?php

namespace Tests\Core;

use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Describing\ObjectSchemas;
use Baggage\Core\Targets\Describing\SchemaChanges;
use Baggage\Core\Targets\Describing\SheetDescription;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use Baggage\Core\Targets\TableText;
use PHPUnit\Framework\TestCase;

final class TargetDescriptionTest extends TestCase
{
    /** @return array<string, string> field → what is said of it */
    private static function said(Entity $entity): array
    {
        return array_map(fn (Field $f) => $f->describe().($f->assigned ? ', assigned' : ''), $entity->fields);
    }

    /**
     * The Pet and Error schemas of the OpenAPI Specification's own example (OAI/OpenAPI-Specification,
     * "petstore-expanded"): value from memory.
     */
    public function test_openapi_components(): void
    {
        $document = json_decode(
            '{"openapi":"3.0.0","info":{"title":"x","version":"1"},"paths":{},"components":{"schemas":{
            "Pet":{"allOf":[{"$ref":"#/components/schemas/NewPet"},{"type":"object","required":["id"],
                "properties":{"id":{"type":"integer","format":"int64","readOnly":true}}}]},
            "NewPet":{"type":"object","required":["name"],"properties":{"name":{"type":"string"},"tag":{"type":"string"}}},
            "Error":{"type":"object","required":["code","message"],
                "properties":{"code":{"type":"integer","format":"int32"},"message":{"type":"string"}}}}}}',
            true,
        );
        $schema = ObjectSchemas::read($document);
        self::assertSame(['pet', 'new_pet', 'error'], array_keys($schema->entities));
        self::assertEqualsCanonicalizing(
            ['id' => 'whole number, assigned', 'name' => 'text 255, required', 'tag' => 'text 255'],
            self::said($schema->entities['pet']),
        );
        self::assertSame(
            ['id' => 'whole number, assigned', 'code' => 'whole number, required', 'message' => 'text 255, required'],
            self::said($schema->entities['error']),
        );
        self::assertSame('9223372036854775807', $schema->entities['pet']->fields['id']->type->toArray()['max']);
    }

    /** JSON Schema 2020-12: $defs, type lists with null, enum, format, multipleOf, references in every way they are written. */
    public function test_json_schema(): void
    {
        $document = json_decode(
            '{"$schema":"https://json-schema.org/draft/2020-12/schema","$defs":{
            "Berth":{"type":"object","x-unique":[["harbour","code"]],
                "properties":{"id":{"type":"integer","readOnly":true},"code":{"type":"string","maxLength":12},
                "harbour":{"$ref":"#/$defs/Harbour"},"neighbour":{"anyOf":[{"$ref":"#/$defs/Berth"},{"type":"null"}]},
                "depth":{"type":["number","null"],"multipleOf":0.01},"kind":{"enum":["fixed","swinging"],"default":"fixed"},
                "built":{"type":"string","format":"date","description":"year of the quay"},
                "seen":{"type":"string","format":"date-time"},"metered":{"type":"boolean","default":false},
                "position":{"type":"object","properties":{"lat":{"type":"number"}}},"tags":{"type":"array","items":{"type":"string"}}},
                "required":["code","harbour","depth","kind"]},
            "Harbour":{"type":"object","properties":{"code":{"type":"string","maxLength":3,"x-key":true}},"required":["code"]},
            "Text":{"type":"string"}}}',
            true,
        );
        $schema = ObjectSchemas::read($document);
        self::assertSame(['berth', 'harbour'], array_keys($schema->entities), 'a text alone is no entity');
        self::assertSame(
            [
                'id' => 'whole number, assigned',
                'code' => 'text 12, required',
                'harbour' => 'harbour, required',
                'neighbour' => 'berth',
                'depth' => 'decimal 18,2',
                'kind' => 'one of 2, default fixed',
                'built' => 'date',
                'seen' => 'date and time',
                'metered' => 'yes or no, default 0',
            ],
            self::said($schema->entities['berth']),
        );
        self::assertSame(
            ['code', [['harbour', 'code']], 'year of the quay'],
            [
                $schema->entities['harbour']->key,
                $schema->entities['berth']->uniques,
                $schema->entities['berth']->fields['built']->note,
            ],
        );
        foreach (
            [
                '{"$defs":{}}' => 'no object with properties',
                '{"$defs":{"a":{"properties":{"b":{"$ref":"other.json#/x"}}}}}' => 'bundle it first',
                '{"$defs":{"a":{"properties":{"b":{"$ref":"#/$defs/nothing"}}}}}' => 'nothing is there',
                '{"$defs":{"a":{"properties":{"b":{"$ref":"#/$defs/c"}}},"c":{"$ref":"#/$defs/d"},'
                    .'"d":{"$ref":"#/$defs/c"}}}' => 'leads back to itself',
            ] as $bad => $says
        ) {
            try {
                ObjectSchemas::read(json_decode($bad, true));
                self::fail($bad);
            } catch (DescriptionError $e) {
                self::assertStringContainsString($says, $e->getMessage());
            }
        }
    }

    public function test_a_sheet(): void
    {
        $rows = [
            2 => [
                'Entity' => 'berth',
                'Field' => 'code',
                'Type' => 'text',
                'Length' => '12',
                'Required' => 'yes',
                'Unique' => 'place',
            ],
            [
                'Entity' => 'berth',
                'Field' => 'harbour',
                'References' => 'harbour',
                'Required' => 'x',
                'Unique' => 'place',
            ],
            ['Entity' => 'berth', 'Field' => 'rent', 'Type' => 'Decimal', 'Length' => '9,2', 'Default' => '0.00'],
            ['Entity' => 'berth', 'Field' => 'kind', 'Allowed values' => 'fixed; swinging'],
            [],
            ['Entity' => 'harbour', 'Field' => 'id', 'Unique' => 'key', 'Type' => 'whole number'],
            ['Entity' => 'harbour', 'Field' => 'name', 'Unique' => 'yes', 'Note' => 'as on the chart'],
        ];
        $schema = SheetDescription::read($rows);
        self::assertSame(
            [
                'id' => 'whole number, assigned',
                'code' => 'text 12, required',
                'harbour' => 'harbour, required',
                'rent' => 'decimal 9,2, default 0.00',
                'kind' => 'one of 2',
            ],
            self::said($schema->entities['berth']),
        );
        self::assertSame(
            [[['code', 'harbour']], [['name']], 'as on the chart'],
            [
                $schema->entities['berth']->uniques,
                $schema->entities['harbour']->uniques,
                $schema->entities['harbour']->fields['name']->note,
            ],
        );
        foreach (
            [
                ['Entity' => 'a b', 'Field' => 'c', 'says' => 'Row 2: "a b" cannot be the name of an entity'],
                ['Entity' => 'a', 'Field' => 'c', 'Type' => 'colour', 'says' => 'Row 2: "colour" is no type'],
                ['Entity' => 'a', 'Field' => 'c', 'Length' => 'long', 'says' => 'a length is a number'],
                ['Entity' => 'a', 'Field' => 'c', 'Required' => 'perhaps', 'says' => 'Required is yes or no'],
                ['Entity' => 'a', 'Field' => 'c', 'References' => 'b', 'says' => 'no such entity'],
            ] as $bad
        ) {
            try {
                SheetDescription::read([2 => array_diff_key($bad, ['says' => 0])]);
                self::fail($bad['says']);
            } catch (DescriptionError $e) {
                self::assertStringContainsString($bad['says'], $e->getMessage());
            }
        }
        $this->expectExceptionMessage('Row 3: a has the field c already');
        SheetDescription::read([2 => ['Entity' => 'a', 'Field' => 'c'], 3 => ['Entity' => 'a', 'Field' => 'c']]);
    }

    public function test_what_a_newer_description_changes(): void
    {
        $field = fn (string $name, array $a = []) => Field::fromArray(
            ['name' => $name] + $a + ['kind' => 'text', 'length' => 40],
        );
        $old = new Schema([
            new Entity('party', 'id', [$field('id'), $field('name'), $field('fax')], [['name']]),
            new Entity('gone', 'id', [$field('id')]),
        ]);
        $new = new Schema([
            new Entity('party', 'id', [
                $field('id'),
                $field('name', ['length' => 60, 'required' => true]),
                $field('email'),
            ]),
            new Entity('fresh', 'id', [$field('id')]),
        ]);
        $changes = array_map(
            fn ($c) => "$c->entity.$c->field $c->what: $c->from > $c->to",
            SchemaChanges::between($old, $new),
        );
        self::assertEqualsCanonicalizing(
            [
                'party.name changed: text 40 > text 60, required',
                'party.fax removed: text 40 > ',
                'party.email added:  > text 40',
                'party. changed: unique: name > unique: nothing',
                'gone. removed: 1 fields: id > ',
                'fresh. added:  > 1 fields: id',
            ],
            $changes,
        );
        self::assertSame([], SchemaChanges::between($old, Schema::fromArray($old->toArray())));
    }

    public function test_statements_that_make_tables(): void
    {
        $schema = SheetDescription::read([
            ['Entity' => 'berth', 'Field' => 'code', 'Length' => '12', 'Required' => 'yes', 'Unique' => 'yes'],
            ['Entity' => 'berth', 'Field' => 'harbour', 'References' => 'harbour', 'Required' => 'yes'],
            ['Entity' => 'berth', 'Field' => 'kind', 'Allowed values' => "fixed;it's"],
            ['Entity' => 'harbour', 'Field' => 'name', 'Default' => 'x\\y'],
        ]);
        $statements = TableText::statements(array_values($schema->entities), $schema, 'new_');
        self::assertSame(3, count($statements));
        self::assertStringContainsString("`kind` VARCHAR(5) NULL CHECK (`kind` IN ('fixed', 'it''s'))", $statements[0]);
        self::assertStringContainsString('UNIQUE KEY `u1_code` (`code`)', $statements[0]);
        self::assertStringContainsString("DEFAULT 'x\\\\y'", $statements[1]);
        self::assertSame(
            'ALTER TABLE `new_berth` ADD CONSTRAINT `new_berth_harbour` FOREIGN KEY (`harbour`) REFERENCES `new_harbour` (`id`)',
            $statements[2],
        );
    }
}
