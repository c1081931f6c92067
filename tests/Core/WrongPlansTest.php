<?php

namespace Tests\Core;

use Baggage\Core\Plan\AgainstTarget;
use Baggage\Core\Plan\Mistake;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanReader;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use Baggage\Core\Targets\Types\DateType;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\TestCase;

/** Plans with one mistake each: the line is the one it was made in, the field the one it is about. */
final class WrongPlansTest extends TestCase
{
    public const PLAN = <<<'YAML'
        baggage: 1
        migration: Shop
        target:
          application: till
          connections:
            - name: rehearsal
              host: 127.0.0.1
              port: 3306
              database: till
              username: loader
              password_env: BAGGAGE_SECRET_TILL
        sources:
          - code: OLD
            name: The old till
            notes: Retired
            connections:
              - name: depot
                driver: mysql
                host: depot
                database: stock
            references:
              - from: bills
                columns: [CUST]
                to: OLD/customers
                key: [NO]
                is: accepted
            extracts:
              - name: customers
                file: customers.csv
                row_key: [NO]
                reader:
                  delimiter: ";"
                  encoding: Windows-1252
                left_behind:
                  FAX: Nobody has one
                findings:
                  - finding: round_count
                    is: accepted
              - name: bills
                file: bills.csv
                reader: {delimiter: ",", skip: 2}
                allow_empty: true
              - name: places
                reader:
                  kind: feed
                  combined: distinct
                  of: [OLD/customers]
                  distinct: [TOWN]
        code_crosswalks:
          - name: countries
            entries:
              UK: GB
              D: DE
              "007": XX
              "-": null
            rejected: ["?"]
            otherwise: value
            otherwise_value: ZZ
            notes:
              UK: was used by clerks
        parameters:
          cutover:
            prompt: Last day
            default: "2026-12-31"
        match_rules:
          - entity: customer
            name: by name
            on:
              name: organisation
        loads:
          - name: Customers
            entity: customer
            from: OLD/customers
            key: [no]
            policy: create_or_update
            match: [by name]
            fields:
              name: tidy(name)
              country: code('countries', country)
              since: date(since, 'd/m/Y')
          - name: Bills
            entity: bill
            from: OLD/bills
            key:
              - year
              - no
            key_compared: exact
            key_space: BILLS
            scope: status != 'void'
            scope_reason: Void bills stay
            fields:
              number: year ~ '-' ~ no
              customer: parent(cust, 'OLD')
              issued: {rule: "date(day, 'd.m.y')", note: As written}
              note: {empty: Nobody reads them}
          - name: Lines
            entity: line
            from: OLD/bills
            key: [line]
            fields:
              bill: parent([year, no], 'BILLS')
              amount: parameter('cutover')
        YAML;

    private static function schema(): Schema
    {
        $text = new TextType(60);
        $id = new Field('id', new IntegerType('1', '99999999'), true, true);
        $number = new IntegerType('0', '99999999');

        return new Schema([
            new Entity('customer', 'id', [
                $id, new Field('name', $text, true), new Field('country', $text), new Field('since', new DateType),
            ]),
            new Entity('bill', 'id', [
                $id, new Field('number', $text, true), new Field('customer', $number, true, false, 'customer'),
                new Field('issued', new DateType), new Field('note', $text),
            ]),
            new Entity('line', 'id', [$id, new Field('bill', $number, true, false, 'bill'), new Field('amount', $text)]),
        ]);
    }

    /** @return array<string, Columns|null> */
    private static function columns(): array
    {
        return [
            'OLD/customers' => Columns::fromHeaders(['NO', 'NAME', 'COUNTRY', 'SINCE', 'FAX', 'TOWN']),
            'OLD/bills' => Columns::fromHeaders(['YEAR', 'NO', 'LINE', 'CUST', 'DAY', 'STATUS']),
            'OLD/places' => null,
        ];
    }

    /** @return list<Mistake> */
    public static function mistakes(string $yaml): array
    {
        try {
            $plan = (new PlanReader)->read($yaml, 'plan.yaml');
        } catch (PlanError $e) {
            return $e->mistakes;
        }

        return AgainstTarget::mistakes($plan, self::schema(), self::columns());
    }

    public function test_the_plan_without_a_mistake_is_taken(): void
    {
        self::assertSame([], array_map(fn (Mistake $m) => $m->text(), self::mistakes(self::PLAN)));
    }

    /**
     * What is replaced in the plan, by what, and part of what is said. The line is that of the replacement's first difference.
     *
     * @return list<array{string, string, string}>
     */
    public static function edits(): array
    {
        $long = str_repeat('x', 300);

        return [
            ['baggage: 1', 'baggage: 2', ''],
            ['migration: Shop', "migration: $long", ''],
            ['migration: Shop', 'migration: 2024', 'string'],
            ['migration: Shop', 'migration: ""', ''],
            ['migration: Shop', 'migrations: Shop', 'unknown field'],
            ['application: till', 'aplication: till', 'unknown field'],
            ['application: till', "application: $long", ''],
            ['- name: rehearsal', "- name: $long", ''],
            ['host: 127.0.0.1', 'host: [127.0.0.1]', 'string'],
            ['port: 3306', 'port: 0xCEA', 'put "0xCEA" in quotes'],
            ['port: 3306', 'port: 3_306', 'put "3_306" in quotes'],
            ['port: 3306', 'port: .inf', 'infinity'],
            ['password_env: BAGGAGE_SECRET_TILL', 'password: secret', 'unknown field "password"'],
            ['password_env: BAGGAGE_SECRET_TILL', 'password_env: baggage', 'name of an environment variable'],
            ['- code: OLD', '- code: THE OLD TILL', '1 to 12 letters'],
            ['- code: OLD', '- code: 1998', 'string'],
            ['notes: Retired', 'note: Retired', 'unknown field "note"'],
            ['notes: Retired', 'notes: '.str_repeat('y', 4001), ''],
            ['driver: mysql', 'driver: oracle', ''],
            ['host: depot', "host: $long", ''],
            ['- from: bills', '- from: bill', 'no source has the extract "OLD/bill"'],
            ['columns: [CUST]', 'columns: [CUSTOMER]', 'OLD/bills has no column "CUSTOMER"'],
            ['columns: [CUST]', 'columns: CUST', 'array'],
            ['columns: [CUST]', 'columns: []', ''],
            ['to: OLD/customers', 'to: customers', 'a source and its extract'],
            ['to: OLD/customers', 'to: OLD/people', 'no source has the extract "OLD/people"'],
            ['key: [NO]', 'key: [NUMBER]', 'OLD/customers has no column "NUMBER"'],
            ['key: [NO]', 'key: [NO, NAME]', 'as many'],
            ['is: accepted', 'is: yes', ''],
            ['- name: customers', '- name: cust/omers', 'no slash'],
            ['file: customers.csv', 'files: customers.csv', 'unknown field'],
            ['file: customers.csv', 'file: ['.'customers.csv]', 'string'],
            ['row_key: [NO]', 'row_key: [ID]', 'has no column "ID"'],
            ['row_key: [NO]', 'row_key: []', ''],
            ['encoding: Windows-1252', 'encoding: latin1', ''],
            ['delimiter: ";"', 'delimeter: ";"', 'unknown field "delimeter"'],
            ['FAX: Nobody has one', 'TELEX: Nobody has one', 'has no column "TELEX"'],
            ['FAX: Nobody has one', 'FAX:', 'string'],
            ['- finding: round_count', '- found: round_count', ''],
            ['- name: bills', '- name: Customers', 'two extracts of OLD named "Customers"'],
            ['reader: {delimiter: ",", skip: 2}', 'reader: {delimiter: ",", skip: -2}', ''],
            ['reader: {delimiter: ",", skip: 2}', 'reader: {delimiter: ",", skip 2: x}', ''],
            ['reader: {delimiter: ",", skip: 2}', 'reader: {delimiter: ",", skip: two}', 'integer'],
            ['allow_empty: true', 'allow_empty: perhaps', 'boolean'],
            ['kind: feed', 'kind: fed', ''],
            ['combined: distinct', 'combined: merge', ''],
            ['reader: {delimiter: ",", skip: 2}', 'reader: {kind: fixed_width}', 'needs a layout'],
            ['of: [OLD/customers]', "connection: nowhere\n          of: [OLD/customers]", 'no connection "nowhere"'],
            ['distinct: [TOWN]', 'distinct: [VILLAGE]', 'OLD/customers has no column "VILLAGE"'],
            ['of: [OLD/customers]', 'of: [OLD/custmers]', 'no source has the extract "OLD/custmers"'],
            ['of: [OLD/customers]', 'of: [customers]', 'a source and its extract'],
            ['- name: countries', '- nme: countries', ''],
            ['UK: GB', 'UK: [GB]', ''],
            ['UK: GB', 'UK: 1.50', ''],
            ['UK: GB', 'UK: 2001-02-03', 'in quotes'],
            ['UK: GB', 'UK: 0o17', 'in quotes'],
            ['UK: GB', 'UK: "'.str_repeat('z', 191).'"', ''],
            ['D: DE', '"UK ": DE', 'is there twice'],
            ['D: DE', 'UK: DE', 'second time'],
            ['D: DE', '"  ": DE', 'more than blanks'],
            ['D: DE', str_repeat('q', 191).': DE', 'at most 190'],
            ['D: DE', '2001-01-01: DE', 'in quotes'],
            ['D: DE', '1.5: DE', 'in quotes'],
            ['D: DE', 'true: DE', 'in quotes'],
            ['rejected: ["?"]', 'rejected: ["007"]', 'is there twice'],
            ['rejected: ["?"]', 'rejected: "?"', 'array'],
            ['otherwise: value', 'otherwise: ignore', ''],
            ["otherwise_value: ZZ\n", "otherwise_valu: ZZ\n", ''],
            ['UK: was used by clerks', 'US: was used by clerks', 'no old value "US"'],
            ['prompt: Last day', 'promt: Last day', ''],
            ['cutover:', str_repeat('c', 61).':', '1 to 60 characters'],
            ['prompt: Last day', "prompt: $long", ''],
            ['default: "2026-12-31"', 'default: 2026-12-31', ''],
            ['- entity: customer', '- entity: client', 'no entity "client"'],
            ['name: by name', 'name: "'.str_repeat('n', 101).'"', ''],
            ['name: organisation', 'nme: organisation', 'customer has no field "nme"'],
            ['name: organisation', 'name: alike', ''],
            ['- name: Bills', '- name: customers', 'two loads named'],
            ['- name: Bills', '- name: Cústomers', 'two loads named'],
            ["entity: customer\n    from", "entity: customers\n    from", 'no entity "customers"'],
            ['from: OLD/customers', 'from: OLD-customers', 'a source and its extract'],
            ['from: OLD/customers', 'from: NEW/customers', 'no source has the extract'],
            ['key: [no]', 'key: [number]', 'has no column "number"'],
            ['key: [no]', 'key: no', 'array'],
            ['key: [no]', 'key: []', ''],
            ['key: [no]', 'key: [no, no]', 'twice'],
            ['policy: create_or_update', 'policy: upsert', ''],
            ['match: [by name]', 'match: [by nam]', 'no match rule named "by nam"'],
            ['match: [by name]', 'match: {nam: exact}', 'customer has no field "nam"'],
            ['match: [by name]', 'match: {name: roughly}', ''],
            ['name: tidy(name)', 'nam: tidy(name)', 'customer has no field "nam"'],
            ['name: tidy(name)', 'name: tidy(nam)', 'no column "nam"'],
            ['name: tidy(name)', 'name: tidi(name)', 'no function "tidi"'],
            ['name: tidy(name)', 'name: tidy(name', 'character'],
            ['name: tidy(name)', 'name: ((((((', 'character'],
            ['name: tidy(name)', 'name: tidy(name) ~', 'ends too early'],
            ['name: tidy(name)', "name: row['NAM']", 'no column with the header "NAM"'],
            ['name: tidy(name)', 'name: name.first', "row['Exact header']"],
            ['name: tidy(name)', 'name: constant("PHP_VERSION")', 'no function'],
            ['name: tidy(name)', 'name: tidy()', 'arguments'],
            ['name: tidy(name)', 'name: name matches "[A-Z"', 'regular expression'],
            ['name: tidy(name)', 'name: parent(no)', 'is none'],
            ['name: tidy(name)', 'name: '.str_repeat('name ~ ', 600).'name', ''],
            ['name: tidy(name)', 'name: {rule: tidy(name), empty: also}', 'either a rule or a reason'],
            ['name: tidy(name)', 'name: {note: nothing else}', 'either a rule or a reason'],
            ['name: tidy(name)', 'name: 5', ''],
            ['name: tidy(name)', 'id: tidy(name)', ''],
            ["code('countries', country)", "code('countrys', country)", 'no code crosswalk "countrys"'],
            ["code('countries', country)", "code('countries')", 'arguments'],
            ["date(since, 'd/m/Y')", "date(since, 'j/n/Y')", 'stands for nothing'],
            ["date(since, 'd/m/Y')", "date(since, 'DD/MM/YYYY')", 'stands for nothing'],
            ["date(since, 'd/m/Y')", 'date(since)', 'arguments'],
            ['entity: bill', 'entity: invoice', 'no entity "invoice"'],
            ['- year', '- yeer', 'no column "yeer"'],
            ['key_compared: exact', 'key_compared: loosely', ''],
            ['key_space: BILLS', 'key_space: ALL THE BILLS', '1 to 12 letters'],
            ["scope: status != 'void'", "scope: state != 'void'", 'no column "state"'],
            ["scope: status != 'void'", "scope: status != 'void", ''],
            ["scope: status != 'void'", 'scope: parent(cust)', 'a scope is none'],
            ["number: year ~ '-' ~ no", "numbr: year ~ '-' ~ no", 'bill has no field "numbr"'],
            ["parent(cust, 'OLD')", 'parent(cust, "NEW")', 'no load makes customer in the key space NEW'],
            ["parent(cust, 'OLD')", "parent([cust, no], 'OLD')", 'have 1 column, not 2'],
            ["rule: \"date(day, 'd.m.y')\"", "rule: \"date(dey, 'd.m.y')\"", 'no column "dey"'],
            ['note: As written', 'nte: As written', 'unknown field "nte"'],
            ['empty: Nobody reads them', 'empty: ""', ''],
            ["parent([year, no], 'BILLS')", "parent([year, no, line], 'BILLS')", 'have 2 columns, not 3'],
            ["parent([year, no], 'BILLS')", 'parent([year, no])', 'no load makes bill in the key space OLD'],
            ["amount: parameter('cutover')", "amount: parameter('cutoff')", 'no parameter "cutoff"'],
            ["amount: parameter('cutover')", "\tamount: parameter('cutover')", ''],
            ["amount: parameter('cutover')", "amount: parameter('cutover'): x", ''],
        ];
    }

    public function test_each_mistake_is_told_at_its_line(): void
    {
        self::assertGreaterThanOrEqual(120, count(self::edits()));
        $wrong = [];
        foreach (self::edits() as [$old, $new, $says]) {
            $at = (int) strpos(self::PLAN, $old);
            self::assertStringContainsString($old, self::PLAN);
            for ($same = 0; isset($old[$same], $new[$same]) && $old[$same] === $new[$same]; $same++) {
            }
            $line = substr_count(substr(self::PLAN, 0, $at + $same), "\n") + 1;
            $found = self::mistakes(substr_replace(self::PLAN, $new, $at, strlen($old)));
            $lines = array_map(fn (Mistake $m) => $m->line, $found);
            $text = implode("\n", array_map(fn (Mistake $m) => $m->text(), $found));
            if (! in_array($line, $lines, true) || ! str_contains(strtolower($text), strtolower($says))) {
                $wrong[] = mb_strimwidth("$old => $new, line $line", 0, 120)."\n    ".mb_strimwidth($text, 0, 400);
            }
        }
        self::assertSame([], $wrong, implode("\n", $wrong));
    }

    /** What is left out is told where it is missed. */
    public function test_what_is_missing_is_told(): void
    {
        foreach (
            [
                ["migration: Shop\n", 'migration'],
                ["  application: till\n", 'target.application'],
                ["      database: till\n", 'target.connections.0.database'],
                ["    name: The old till\n", 'sources.0.name'],
                ["        driver: mysql\n", 'sources.0.connections.0.driver'],
                ["        to: OLD/customers\n", 'sources.0.references.0.to'],
                ["            is: accepted\n      - name: bills", 'sources.0.extracts.0.findings.0.is', '      - name: bills'],
                ["    otherwise_value: ZZ\n", 'code_crosswalks.0.otherwise'],
                ["    prompt: Last day\n", 'parameters.cutover.prompt'],
                ["    name: by name\n", 'match_rules.0.name'],
                ["    scope_reason: Void bills stay\n", 'loads.1.scope'],
                ["      name: tidy(name)\n", 'loads.0.fields'],
                ["    entity: bill\n", 'loads.1.entity'],
                ["    from: OLD/bills\n    key:\n", 'loads.1.from', "    key:\n"],
                ["    key: [line]\n", 'loads.2.key'],
            ] as $case
        ) {
            self::assertStringContainsString($case[0], self::PLAN);
            $found = self::mistakes(str_replace($case[0], $case[2] ?? '', self::PLAN));
            self::assertContains($case[1], array_map(fn (Mistake $m) => $m->field, $found), $case[0]);
            foreach ($found as $mistake) {
                self::assertGreaterThan(0, $mistake->line ?? ($case[1] === 'migration' ? 1 : 0), $mistake->text());
            }
        }
    }

    public function test_what_is_no_plan_at_all(): void
    {
        $bomb = "baggage: 1\nmigration: x\na: &a [x, x, x, x, x, x, x, x, x, x]\n";
        foreach (range('b', 'j') as $i => $name) {
            $before = chr(ord($name) - 1);
            $bomb .= "$name: &$name [".implode(', ', array_fill(0, 9, "*$before"))."]\n";
        }
        foreach (
            [
                '' => 'not a plan',
                '(((((' => 'not a plan',
                "- a\n- b" => 'not a plan',
                'a: {b: c' => 'line 1: This is not YAML',
                "baggage: 1\nmigration: x\n\ttarget: y" => 'indented with a tab',
                "a: \xFF" => 'not UTF-8',
                'a: *nope' => 'names an anchor that is not there',
                $bomb => 'its aliases make more of them',
                "baggage: 1\nmigration: {New York: NY}" => 'line 2, column 13, migration.New York',
            ] as $yaml => $says
        ) {
            $text = implode("\n", array_map(fn (Mistake $m) => $m->text(), self::mistakes((string) $yaml)));
            self::assertStringContainsString($says, $text, mb_substr((string) $yaml, 0, 60));
        }
        // Read where nothing is known of the columns, a rule is still looked at.
        $plan = (new PlanReader)->read(str_replace('tidy(name)', 'tidi(name)', self::PLAN), 'p');
        self::assertCount(1, AgainstTarget::mistakes($plan, self::schema(), []));
    }
}
