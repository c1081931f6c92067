<?php

namespace Tests\Feature;

use App\Deltas\Delta;
use App\DryRuns\DryRuns;
use App\DryRuns\WorkOnDryRun;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Load;
use App\Models\PassKind;
use App\Models\Round;
use App\Plans\Headless;
use App\Reconciling\Proofs;
use App\Reconciling\Report;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** The whole demo against the generator's answer key. */
final class DemoTest extends TestCase
{
    public function test_every_planted_row_comes_out_as_planted_and_no_clean_row_is_lost(): void
    {
        $round = $this->load($this->demoMigration(all: true));
        $key = json_decode((string) file_get_contents(self::demo().'/answer-key.json'), true);
        $report = (new Report)->of($round);
        self::assertTrue($report['accounted']);
        self::assertTrue($report['proofs_hold']);
        self::assertSame(1, Report::exitCode($report));
        foreach ($report['loads'] as $load) {
            $expected = $key['loads'][$load['load']];
            self::assertSame($expected['rows'], $load['feed_rows'], $load['load']);
            self::assertEqualsCanonicalizing($expected['outcomes'], array_filter($load['outcomes']), $load['load']);
            $id = Load::query()->where('name', $load['load'])->value('id');
            foreach ($expected['exceptions'] as $outcome => $rows) {
                $found = $this->lines('o')
                    ->leftJoin('causes as c', 'c.id', '=', 'o.cause_id')
                    ->where('o.round_id', $round->id)
                    ->where('o.load_id', $id)
                    ->where('o.outcome', $outcome)
                    ->orderBy('o.row_no')
                    ->pluck('c.code', 'o.row_no')
                    ->all();
                self::assertSame(array_keys($rows), array_keys($found), "$load[load] $outcome");
                if ($outcome === 'rejected') {
                    self::assertSame($rows, $found, $load['load']);
                }
            }
        }
        foreach ($report['links'] as $link) {
            self::assertSame($key['links']["$link[load].$link[field]"], [
                'made' => $link['made'],
                'waiting' => $link['waiting'],
            ]);
        }
        $this->countsAgreeWithTheDatabase($round);
        $this->rootsOfHeldRowsAddUp($round);
    }

    /** MariaDB's own aggregates over the target, and the source's files through its own LOAD DATA, are the reference. */
    private function countsAgreeWithTheDatabase(Round $round): void
    {
        [[$vessels, $length, $linked]] = $this->targetRows(
            'SELECT COUNT(*), SUM(length_m), COUNT(current_agreement) FROM vessel',
        );
        self::assertSame(['850', '710'], [$vessels, $linked]);
        self::assertGreaterThan(0, $length);
        [[$invoices, $total]] = $this->targetRows('SELECT COUNT(*), SUM(total) FROM invoice');
        DB::statement(
            'CREATE TEMPORARY TABLE by_hand (y CHAR(4), no CHAR(6), cust VARCHAR(20), dt VARCHAR(10), amount '
                .'VARCHAR(20), txt VARCHAR(80), batch VARCHAR(20), n INT AUTO_INCREMENT PRIMARY KEY) CHARACTER SET utf8mb4',
        );
        DB::connection()
            ->getPdo()
            ->exec(
                'LOAD DATA LOCAL INFILE '.DB::connection()
                    ->getPdo()
                    ->quote(self::demo().'/AC/invoice.txt')
                    ." INTO TABLE by_hand CHARACTER SET cp850 FIELDS TERMINATED BY '|' LINES TERMINATED BY '\\r\\n' "
                        .'IGNORE 1 LINES (y, no, cust, dt, amount, txt, batch)',
            );
        $key = json_decode((string) file_get_contents(self::demo().'/answer-key.json'), true)['loads']['Invoices'][
            'exceptions'
        ];
        $out = implode(',', [...array_keys($key['rejected']), ...array_keys($key['held'])]);
        $byHand = DB::selectOne(
            "SELECT COUNT(*) AS n, SUM(CAST(REPLACE(REPLACE(TRIM(TRAILING '-' "
                ."FROM amount), '.', ''), ',', '.') AS DECIMAL(12,2)) * IF(amount LIKE '%-', -1, 1)) AS total "
                ."FROM by_hand WHERE n NOT IN ($out)",
        );
        self::assertSame([(string) $byHand->n, (string) $byHand->total], [$invoices, $total]);
        self::assertSame(
            'Bjørn Kjær gb',
            $this->targetRows("SELECT name FROM party WHERE name LIKE 'Bj%rn Kj%r gb'")[0][0],
        );
        self::assertSame(
            [['Tarn & Holm Marine Ltd', 'p1@post.example'], ['Skerry Boatyard', 'p2@post.example']],
            $this->targetRows('SELECT name, email FROM party WHERE id IN (1, 2)'),
        );
    }

    private function rootsOfHeldRowsAddUp(Round $round): void
    {
        self::assertSame(
            0,
            $this->lines()
                ->where('round_id', $round->id)
                ->where('outcome', 'held')
                ->whereNull('root_cause_id')
                ->count(),
        );
        self::assertSame(
            0,
            $this->lines('h')
                ->joinSub($this->lines(), 'p', 'p.cause_id', '=', 'h.root_cause_id')
                ->where('h.outcome', 'held')
                ->where('p.outcome', '<>', 'rejected')
                ->count(),
        );
    }

    public function test_a_lost_record_and_a_lost_outcome_are_shown(): void
    {
        [, $round] = $this->loadedDemo();
        $this->target()->exec('DELETE FROM invoice ORDER BY id LIMIT 1');
        $load = Load::query()->where('name', 'Invoices')->value('id');
        DB::table('outcomes')->where('load_id', $load)->where('outcome', 'loaded')->limit(1)->delete();
        $proof = Proofs::of($round)->entities()['invoice'];
        self::assertSame([1, 6304], [$proof->unaccounted(), $proof->count(Outcome::Loaded)]);
        // SEMANTICS 20: gone since the pass, so not by it.
        self::assertSame([-1, 0], [$proof->otherOrigin, $proof->targetGap()]);
        self::assertFalse($proof->holds());
        self::assertFalse((new Report)->of($round)['accounted']);
    }

    public function test_the_second_delivery_comes_out_as_planted_and_is_taken_back(): void
    {
        [$migration, $round] = $this->loadedDemo(self::smallDemo(), all: true);
        $before = $this->targetSums();
        $key = json_decode((string) file_get_contents(self::smallDemo().'/second/answer-key.json'), true);
        $headless = $this->app->make(Headless::class);
        $headless->freeze($migration, self::smallDemo().'/second/plan.yaml', fn () => null);
        $run = DryRuns::ofDelta($round, new Delta);
        (new WorkOnDryRun($run->id))->handle();
        $said = array_column($run->refresh()->found['delta'] ?? [], null, 'load');
        $rounds = $this->app->make(Rounds::class);
        $pass = $rounds->pass($round, PassKind::Delta, delta: new Delta);
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', null], [$pass->refresh()->state->value, $pass->error]);
        self::assertSame([null, []], [$pass->compared['because'], $pass->compared['kinds']]);
        $report = (new Report)->of($round->refresh());
        $did = array_column((new Report)->delta($round), null, 'load');
        self::assertSame([true, true], [$report['accounted'], $report['proofs_hold']]);
        foreach ($report['loads'] as $load) {
            [$name, $planted] = [$load['load'], $key['loads'][$load['load']]];
            self::assertSame([$planted['rows'], $planted['older']], [$load['feed_rows'], $load['older']], $name);
            self::assertEquals(array_filter($planted['outcomes']), array_filter($load['outcomes']), $name);
            foreach (['added', 'gone', 'changed'] as $what) {
                self::assertSame([$planted[$what], $planted[$what]], [$did[$name][$what], $said[$name][$what]], "$name $what");
            }
            self::assertSame([$planted['removed'], $planted['removed']], [$did[$name]['removed'], $said[$name]['would_remove']], $name);
            self::assertSame($planted['records_changed'], $said[$name]['records_changed'], $name);
        }
        foreach ($report['links'] as $link) {
            $links = ['made' => $link['made'], 'waiting' => $link['waiting']];
            self::assertSame($key['links']["$link[load].$link[field]"], $links, "$link[load].$link[field]");
        }
        $back = $rounds->backOut($round, $pass->number);
        PassRunner::of($back, 0)->work();
        self::assertSame(['finished', null, 0], [$back->refresh()->state->value, $back->error, $back->left_records]);
        self::assertSame($before, $this->targetSums());
        self::assertTrue((new Report)->of($round->refresh())['proofs_hold']);
    }

    /** @return array<string, string> table of the target → what it says, by the database's own checksum */
    private function targetSums(): array
    {
        $sums = [];
        foreach ($this->targetRows('SHOW TABLES') as [$table]) {
            if (! str_starts_with($table, 'baggage')) {
                $sums[$table] = $this->targetRows("CHECKSUM TABLE `$table`")[0][1];
            }
        }

        return $sums;
    }

    public function test_a_second_round_has_its_own_figures(): void
    {
        [$migration, $first] = $this->loadedDemo(self::smallDemo());
        $grown = Proofs::of($first)->entities()['party']->targetAfter;
        $rounds = $this->app->make(Rounds::class);
        $second = $rounds->begin($migration, $migration->targets()->firstOrFail(), 'rehearsal-2');
        PassRunner::of($rounds->pass($second, PassKind::First), 0)->work();
        self::assertSame($grown, Proofs::of($second)->entities()['party']->targetBefore);
        // What a later round writes into the same target is no figure of the one before.
        self::assertSame($grown, Proofs::of($first)->entities()['party']->targetAfter);
        \Standins\HarbourOffice::reset($this->target());
        $third = $this->load($migration, 'rehearsal-3');
        $figures = fn ($round) => array_map(fn ($l) => $l['outcomes'], (new Report)->of($round)['loads']);
        self::assertSame($figures($first), $figures($third));
    }

    public function test_same_seed_same_bytes(): void
    {
        $sums = [];
        foreach ([1, 2] as $i) {
            $folder = sys_get_temp_dir().'/baggage-demo-'.$i;
            (new \Demo\Generator(0.2, 7, $folder))->write();
            $sums[] = array_map(fn ($f) => hash_file('sha256', "$folder/$f"), [
                'BB/people.txt',
                'BB/craft.txt',
                'BB/agreement.txt',
                'OF/contacts.csv',
                'AC/invoice.txt',
                'answer-key.json',
            ]);
            $tables = (new \PDO("sqlite:$folder/BB/berthbook.sqlite"))
                ->query('SELECT COUNT(*) FROM people')
                ->fetchColumn();
            self::assertSame(200, $tables);
        }
        self::assertSame($sums[0], $sums[1]);
    }
}
