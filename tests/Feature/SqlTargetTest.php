<?php

namespace Tests\Feature;

use App\Models\Target as TargetModel;
use App\Targets\Ports;
use App\Targets\SchemaReader;
use App\Targets\TargetLink;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Said;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;
use Illuminate\Support\Facades\DB;
use Tests\Support\WhatATargetMustDo;
use Tests\TestCase;

/** The MariaDB target, held to what every target must do. */
final class SqlTargetTest extends TestCase
{
    use WhatATargetMustDo;

    private Ports $ports;

    private Schema $schema;

    private TargetLink $link;

    protected function setUp(): void
    {
        parent::setUp();
        $database = str_replace('harbour_', 'other_', (string) getenv('HARBOUR_OFFICE_DATABASE'));
        $model = new TargetModel([
            'name' => 'suite',
            'host' => '127.0.0.1',
            'port' => getenv('DB_PORT'),
            'database' => $database,
            'username' => 'harbour',
            'password' => (string) getenv('HARBOUR_OFFICE_PASSWORD'),
        ]);
        $pdo = ($link = $this->link = new TargetLink($model))->pdo();
        $pdo->exec('DROP TABLE IF EXISTS suite_berth, suite_harbour, baggage_receipts, baggage_marks');
        $pdo->exec('CREATE TABLE suite_harbour (id INT AUTO_INCREMENT PRIMARY KEY, code VARCHAR(8) NOT NULL UNIQUE, '
            .'name VARCHAR(60) NOT NULL) ENGINE=InnoDB');
        $pdo->exec('CREATE TABLE suite_berth (id INT AUTO_INCREMENT PRIMARY KEY, code VARCHAR(8) NOT NULL, harbour INT NOT NULL, '
            .'note VARCHAR(40) NULL, '
            .'FOREIGN KEY (harbour) REFERENCES suite_harbour (id)) ENGINE=InnoDB');
        $this->schema = (new SchemaReader)->read($link);
        $this->ports = Ports::of($model);
    }

    /** What MariaDB says, in words one can act on, with its own beside them. */
    public function test_refusals_are_told_apart(): void
    {
        [$a] = $this->create([1 => self::h('AA')]);
        $n = 1;
        $berth = function (array $values) use (&$n) {
            return $this->create([++$n => $values], $n - 1, $this->berth())[0]->said;
        };
        $said = fn (?Said $said) => [$said?->code, $said?->fields, $said?->message];
        self::assertSame(
            [
                'too long' => ['too_long', ['code'], 'Longer than the target takes'],
                'out of range' => ['out_of_range', ['harbour'], 'Outside the range the target takes'],
                'missing' => ['required', ['code'], 'Required by the target'],
                'not given' => ['required', ['harbour'], 'Required by the target'],
                'unknown parent' => ['unknown_parent', ['harbour'], 'The target has no such suite harbour'],
                'no number' => ['refused', ['harbour'], 'The target does not take such a value there'],
            ],
            array_map($said, [
                'too long' => $berth(['code' => 'LONGER THAN EIGHT', 'harbour' => $a->targetKey]),
                'out of range' => $berth(['code' => 'Q1', 'harbour' => '99999999999']),
                'missing' => $berth(['code' => null, 'harbour' => $a->targetKey]),
                'not given' => $berth(['code' => 'Q1']),
                'unknown parent' => $berth(['code' => 'Q1', 'harbour' => '999']),
                'no number' => $berth(['code' => 'Q1', 'harbour' => 'north']),
            ]),
        );
        self::assertSame("Data too long for column 'code'", $berth(['code' => 'LONGER THAN EIGHT', 'harbour' => '1'])?->own);
    }

    /** A right that is taken away in mid-pass is no refusal of a row either. */
    public function test_a_right_that_is_missing_says_what_to_grant(): void
    {
        $this->create([1 => self::h('AA')]);
        $database = str_replace('harbour_', 'other_', (string) getenv('HARBOUR_OFFICE_DATABASE'));
        DB::unprepared("CREATE OR REPLACE USER few@'127.0.0.1' IDENTIFIED BY 'x'; GRANT SELECT, CREATE ON $database.* TO few@'127.0.0.1'");
        $model = clone $this->link->target;
        $model->fill(['username' => 'few', 'password' => 'x']);
        $writing = Ports::of($model)->target->begin($this->harbour(), $this->stretch(5, 6), self::mark());
        try {
            $writing->do([new Order(6, 'K6', Verb::Create, null, self::h('BB'))]);
            self::fail('The account may not insert.');
        } catch (TargetUnavailable $e) {
            self::assertStringContainsString("GRANT INSERT ON `$database`.`suite_harbour` TO 'few'@", $e->getMessage());
        }
        DB::unprepared("DROP USER few@'127.0.0.1'");
    }

    /** Another writer in the way is no refusal of a row: the stretch is begun anew. */
    public function test_a_deadlock_is_told_apart_and_nothing_of_the_stretch_stands(): void
    {
        $pdo = $this->link->pdo();
        $pdo->exec('CREATE OR REPLACE TABLE suite_times (n INT) ENGINE=MyISAM');
        $pdo->exec('INSERT INTO suite_times VALUES (0)');
        // ER_LOCK_DEADLOCK as InnoDB says it, twice; a table without transactions remembers how often.
        $pdo->exec("CREATE TRIGGER suite_in_the_way BEFORE INSERT ON suite_harbour FOR EACH ROW BEGIN
            IF (SELECT n FROM suite_times) < 2 AND NEW.code = 'BB' THEN UPDATE suite_times SET n = n + 1;
            SIGNAL SQLSTATE '40001' SET MYSQL_ERRNO = 1213, MESSAGE_TEXT = 'Deadlock found'; END IF; END");
        foreach ([1, 2] as $time) {
            try {
                $this->create([1 => self::h('AA'), 2 => self::h('BB')]);
                self::fail("Another writer was in the way, time $time.");
            } catch (TargetUnavailable $e) {
                self::assertTrue($e->isSoon);
            }
            self::assertSame([0, null], [$this->records()->count('suite_harbour'), $this->port()->recall($this->stretch(0, 2))]);
        }
        self::assertSame(['1 Created', '2 Created'], self::done($this->create([1 => self::h('AA'), 2 => self::h('BB')])));
        $pdo->exec('DROP TRIGGER suite_in_the_way');
        $pdo->exec('DROP TABLE suite_times');
    }

    protected function port(): Target
    {
        return $this->ports->target;
    }

    protected function records(): TargetRecords
    {
        return $this->ports->records;
    }

    protected function harbour(): Entity
    {
        return $this->schema->entity('suite_harbour');
    }

    protected function berth(): Entity
    {
        return $this->schema->entity('suite_berth');
    }
}
