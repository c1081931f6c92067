<?php

namespace Tests\Feature;

use App\Ledger\Stretches;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Round;
use App\Plans\Headless;
use App\Reconciling\Report;
use App\Support\NamedLock;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Symfony\Component\Yaml\Yaml;
use Tests\Support\EndState;
use Tests\Support\PlainFirst;
use Tests\TestCase;

/** The same end for any number of workers, whoever of them is killed and when. */
final class ManyWorkersTest extends TestCase
{
    use EndState;

    private function begin(Migration $migration): Pass
    {
        $rounds = $this->app->make(Rounds::class);

        return $rounds->pass($rounds->begin($migration, $migration->targets()->firstOrFail(), 'rehearsal-1'), PassKind::First);
    }

    /** Workers go at a pass until it is over; some are killed on the way, and others come in their stead. */
    private function together(Pass $pass, int $workers, int $batch, Randomizer $random, int $kills): void
    {
        $all = [];
        $from = microtime(true);
        while ($pass->refresh()->isGoing() && microtime(true) - $from < 120) {
            $all = array_values(array_filter($all, fn (Process $p) => $p->isRunning()));
            while (count($all) < $workers) {
                $env = ['APP_ENV' => 'testing', 'BAGGAGE_BATCH' => (string) $batch];
                $worker = new Process([PHP_BINARY, 'artisan', 'baggage:work-on', (string) $pass->id], base_path(), $env);
                $worker->start();
                $all[] = $worker;
            }
            usleep($random->getInt(100_000, 400_000));
            if ($kills > 0 && (int) $pass->passLoads()->sum('rows_done') > 0) {
                $kills--;
                $pid = $all[$random->getInt(0, count($all) - 1)]->getPid();
                $pid === null ?: posix_kill($pid, SIGKILL);
            }
        }
        for ($from = microtime(true); array_filter($all, fn (Process $p) => $p->isRunning()) !== [] && microtime(true) - $from < 20;) {
            usleep(20_000);
        }
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
    }

    /** @return list<string> */
    private static function joined(array $rows): array
    {
        return array_map(fn (array $r) => implode('|', $r), $rows);
    }

    public function test_the_demo_is_the_same_whatever_the_number_of_workers(): void
    {
        $first = null;
        foreach (getenv('BAGGAGE_LONG') ? [1, 2, 5] : [1, 5] as $workers) {
            if ($first !== null) {
                $this->tearDown();
                $this->setUp();
            }
            $pass = $this->begin($this->demoMigration(self::smallDemo()));
            $random = new Randomizer(new Mt19937($workers));
            $workers === 1 ? PassRunner::of($pass, 0)->work() : $this->together($pass, $workers, 40, $random, $workers);
            $state = array_map(self::joined(...), self::withoutKeys($this->state($pass->round)));
            $first ??= $state;
            foreach ($state as $what => $lines) {
                self::assertSame(
                    [[], []],
                    [array_slice(array_diff($first[$what], $lines), 0, 3), array_slice(array_diff($lines, $first[$what]), 0, 3)],
                    "$what with $workers workers",
                );
                self::assertSame(count($first[$what]), count($lines), "$what with $workers workers");
            }
            self::assertTrue((new Report)->of($pass->round)['proofs_hold']);
            foreach (['stretches', 'claims', 'contested_rows', 'announced_keys'] as $table) {
                self::assertSame(0, DB::table($table)->count(), "$table is left");
            }
        }
    }

    /** Two workers in each other's way at Baggage's own tables are no reason to stop, wherever in a step that happens. */
    public function test_a_deadlock_in_the_ledger_stops_nothing(): void
    {
        $report = [];
        foreach (['tallies' => 0, 'causes' => 7, 'stretches' => 7, 'claims' => 7] as $table => $times) {
            $this->tearDown();
            $this->setUp();
            $pass = $this->begin($this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n2,\n3,c\n", '{code: no, name: name}'))));
            DB::unprepared("CREATE OR REPLACE TRIGGER in_the_way BEFORE INSERT ON $table FOR EACH ROW BEGIN IF @in_the_way > 0 THEN "
                ."SET @in_the_way = @in_the_way - 1; SIGNAL SQLSTATE '40001' SET MYSQL_ERRNO = 1213, MESSAGE_TEXT = 'Deadlock found'; "
                .'END IF; END');
            DB::statement("SET @in_the_way = $times");
            try {
                PassRunner::of($pass, 0)->work();
            } finally {
                DB::unprepared('DROP TRIGGER in_the_way');
            }
            self::assertSame('finished', $pass->refresh()->state->value, "$table: $pass->error");
            self::assertSame('0', (string) DB::scalar('SELECT @in_the_way'), "$table was in nobody's way");
            $of = (new Report)->of($pass->round);
            self::assertTrue($of['proofs_hold']);
            $report[] = [$of['loads'][0]['outcomes'], array_map(fn ($c) => [$c['code'], $c['rows']], $of['loads'][0]['causes'])];
        }
        self::assertSame([$report[0]], array_values(array_unique($report, SORT_REGULAR)));
    }

    public function test_a_stretch_is_held_by_who_works_on_it_and_by_nobody_else(): void
    {
        $pass = $this->begin($this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}'))));
        $progress = $pass->passLoads()->firstOrFail()->id;
        $stretches = new Stretches($progress);
        $lock = NamedLock::of("rows:$progress:free:0");
        // Taken in the third attempt, and let go once.
        DB::unprepared('CREATE OR REPLACE TRIGGER in_the_way BEFORE INSERT ON stretches FOR EACH ROW BEGIN IF @in_the_way > 0 THEN '
            ."SET @in_the_way = @in_the_way - 1; SIGNAL SQLSTATE '40001' SET MYSQL_ERRNO = 1213, MESSAGE_TEXT = 'Deadlock found'; "
            .'END IF; END');
        DB::statement('SET @in_the_way = 2');
        try {
            self::assertSame(0, $stretches->take(Stretches::FREE, false, fn () => 1)?->after);
        } finally {
            DB::unprepared('DROP TRIGGER in_the_way');
        }
        $stretches->done(Stretches::FREE, 0);
        $stretches->release(Stretches::FREE, 0);
        self::assertFalse($lock->isHeld());
        // The rows go again, and who recorded them is about to let them go.
        DB::table('pass_loads')->where('id', $progress)->update(['cursor_row' => 0]);
        $name = DB::connection()->getDatabaseName().":rows:$progress:free:0";
        $holds = '$db = new PDO($argv[1], $argv[2], $argv[3]); $db->prepare("SELECT GET_LOCK(?, 0)")->execute([$argv[4]]); '
            .'echo "held"; sleep(1);';
        $at = 'mysql:host=127.0.0.1;port='.getenv('DB_PORT');
        $other = new Process([PHP_BINARY, '-r', $holds, $at, 'baggage', (string) getenv('DB_PASSWORD'), $name]);
        $other->start();
        $other->waitUntil(fn (string $type, string $said) => $said === 'held');
        self::assertSame(0, $stretches->take(Stretches::FREE, false, fn () => 1)?->after);
        self::assertSame(DB::scalar('SELECT CONNECTION_ID()'), DB::scalar('SELECT IS_USED_LOCK(?)', [$name]));
        $stretches->release(Stretches::FREE, 0);
    }

    /** @return iterable<string, array{int, bool, bool}> */
    public static function seeds(): iterable
    {
        yield 'an empty target' => [1, false, false];
        yield 'records of others, create only' => [2, true, false];
        yield 'records of others, create or update' => [3, true, true];
    }

    /** Duplicates, self-references, matches, values taken and refusals, at every edge of stretches of three rows. */
    #[DataProvider('seeds')]
    public function test_rows_in_each_others_way_end_the_same(int $seed, bool $others, bool $updates): void
    {
        $random = new Randomizer(new Mt19937($seed));
        $rows = ['A' => $this->rows($random, 70), 'B' => $this->rows($random, 40)];
        $there = $others ? ['other 1' => ['name' => 'Ann', 'mail' => 'm1@x'], 'other 2' => ['name' => 'Zoe', 'mail' => null]] : [];
        $plain = new PlainFirst(true, true, $updates, $there);
        $plain->run($rows);
        $first = null;
        foreach (getenv('BAGGAGE_LONG') ? [1, 2, 5] : [1, 5] as $workers) {
            if ($first !== null) {
                $this->tearDown();
                $this->setUp();
            }
            config(['baggage.batch' => 3]);
            $pass = $this->begin($this->crowd($rows, $there, $updates));
            $workers === 1
                ? PassRunner::of($pass, 0)->work()
                : $this->together($pass, $workers, 3, $random, $workers);
            self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
            $state = $this->byKeys($pass->round);
            self::assertSame($plain->outcomes, array_map(fn (array $s) => $s[0], $state), "with $workers workers");
            $first ??= $state;
            self::assertSame($first, $state, "with $workers workers");
        }
        $there = $this->targetRows('SELECT name, mail FROM '.self::otherDatabase().'.party ORDER BY 1, 2');
        self::assertSame($this->contents($plain), $there);
    }

    /** @return array<int, array{no: string, name: string, mail: string, boss: string}> */
    private function rows(Randomizer $random, int $n): array
    {
        $any = fn (array $of) => $of[$random->getInt(0, count($of) - 1)];
        $rows = [];
        for ($i = 1; $i <= $n; $i++) {
            $rows[$i] = [
                'no' => $any(['', 'K1', 'K2', 'K3', ...array_map(fn () => 'N'.$random->getInt(1, 999), range(1, 8))]),
                'name' => $any(['', 'Ann', 'ANN', 'Cy!', 'D-i', ...array_map(fn () => 'G'.$random->getInt(1, 99), range(1, 8))]),
                'mail' => $any(['', 'm1@x', 'M1@X', 'm2@x', ...array_map(fn () => 'q'.$random->getInt(1, 199), range(1, 5))]),
                'boss' => $any(['', '', 'K1', 'K2']),
            ];
        }

        return $rows;
    }

    /**
     * @param  array<string, array<int, array{no: string, name: string, mail: string, boss: string}>>  $rows
     * @param  array<string, array{name: string, mail: string|null}>  $others
     */
    private function crowd(array $rows, array $others, bool $updates): Migration
    {
        $folder = self::work('many-workers');
        @mkdir($folder, 0777, true);
        foreach ($rows as $name => $of) {
            $lines = array_map(fn (array $r) => implode(',', $r), $of);
            file_put_contents("$folder/$name.csv", "no,name,mail,boss\n".implode("\n", $lines)."\n");
        }
        $target = self::partiesAndBoats(
            ", mail VARCHAR(40) NULL UNIQUE, boss INT NULL, CONSTRAINT no_shouting CHECK (name NOT LIKE '%!%'), "
                .'FOREIGN KEY (boss) REFERENCES party (id)',
        );
        foreach ($others as $record) {
            $mail = $record['mail'] === null ? 'NULL' : "'$record[mail]'";
            DB::unprepared('INSERT INTO '.self::otherDatabase().".party (name, mail) VALUES ('$record[name]', $mail)");
        }
        $load = fn (string $name) => [
            'name' => $name, 'entity' => 'party', 'from' => "S/$name", 'key' => ['no'], 'match' => ['by name'],
            'policy' => $updates ? 'create_or_update' : 'create',
            'fields' => ['name' => 'name', 'mail' => 'mail', 'boss' => 'parent(boss)'],
        ];
        file_put_contents("$folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Many',
            'target' => $target,
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                ['name' => 'A', 'file' => 'A.csv'], ['name' => 'B', 'file' => 'B.csv'],
            ]]],
            'match_rules' => [['name' => 'by name', 'entity' => 'party', 'on' => ['name' => 'letters']]],
            'loads' => [$load('A'), $load('B')],
        ], 8));
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($migration, "$folder/plan.yaml", fn () => null);

        return $migration;
    }

    /** @return array<string, list<string|null>> load and row → outcome, what its record holds, why it has none */
    private function byKeys(Round $round): array
    {
        $state = [];
        $found = DB::select(
            'SELECT l.name, o.item, o.outcome, p.name AS called, p.mail, b.name AS boss, c.code, c.message FROM outcomes o
            JOIN loads l ON l.id = o.load_id LEFT JOIN '.self::otherDatabase().'.party p ON p.id = o.target_key
            LEFT JOIN '.self::otherDatabase().'.party b ON b.id = p.boss
            LEFT JOIN row_causes w ON w.lane_id = o.lane_id AND w.load_id = o.load_id AND w.item = o.item
            LEFT JOIN causes c ON c.id = w.cause_id WHERE o.lane_id = ? ORDER BY l.name, o.item',
            [$round->laneId()],
        );
        foreach ($found as $r) {
            $state["$r->name $r->item"] = [$r->outcome, $r->called, $r->mail, $r->boss, $r->code, $r->message];
        }

        return $state;
    }

    /** @return list<list<string|null>> */
    private function contents(PlainFirst $plain): array
    {
        $all = array_map(array_values(...), array_values($plain->records));
        sort($all);
        usort($all, fn (array $a, array $b) => [strtolower($a[0]), (string) $a[1]] <=> [strtolower($b[0]), (string) $b[1]]);

        return $all;
    }
}
