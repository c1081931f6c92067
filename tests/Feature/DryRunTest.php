<?php

namespace Tests\Feature;

use App\DryRuns\DryRuns;
use App\DryRuns\Supposed;
use App\Ledger\CauseSet;
use App\Ledger\DryRows;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\CodeCrosswalk;
use App\Models\DryRun;
use App\Models\Load;
use App\Models\Migration;
use App\Models\PassKind;
use App\Models\Round;
use App\Models\WorkState;
use App\Plans\Headless;
use App\Rejects\Repairs;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** A dry run says of every row what the pass after it does; the pass is the oracle. */
final class DryRunTest extends TestCase
{
    private Migration $migration;

    private Round $round;

    private function ran(DryRun $run): DryRun
    {
        $run->refresh();
        self::assertSame([WorkState::Done, null], [$run->state, $run->error]);

        return $run;
    }

    /** @return array<string, string> "load row" → outcome, and what it failed for */
    private function dry(DryRun $run): array
    {
        return array_column(array_map(
            fn ($r) => ["$r->load_id $r->row_no", trim("$r->outcome $r->code $r->field $r->value")],
            (new DryRows($run->id))->page(null, null, null, 1_000_000),
        ), 1, 0);
    }

    /** @return array<string, string> the same of the ledger */
    private function real(): array
    {
        return $this->lines('o')->leftJoin('causes as c', 'c.id', '=', 'o.cause_id')
            ->get(['o.load_id', 'o.row_no', 'o.outcome', 'c.code', 'c.field', 'c.value'])
            ->mapWithKeys(fn ($r) => ["$r->load_id $r->row_no" => trim("$r->outcome $r->code $r->field $r->value")])
            ->all();
    }

    /** @return array<string, string> what a dry run may not change: the target with the keys it would give next, and the ledger */
    private function untouched(): array
    {
        $all = [];
        foreach ($this->target()->query("SHOW FULL TABLES WHERE table_type = 'BASE TABLE'")->fetchAll(\PDO::FETCH_COLUMN) as $table) {
            $next = 'SELECT auto_increment FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = ';
            $all[$table] = md5(json_encode([$this->targetRows("SELECT * FROM `$table`"), $this->targetRows("$next'$table'")]));
        }
        $ours = ['outcomes', 'row_causes', 'causes', 'tallies', 'cause_tallies', 'links', 'match_entries', 'corrections', 'waivers'];
        foreach ($ours as $table) {
            $all["our $table"] = md5((string) json_encode(DB::table($table)->get()->all(), JSON_INVALID_UTF8_SUBSTITUTE));
        }

        return $all;
    }

    private function again(): void
    {
        $pass = $this->app->make(Rounds::class)->pass($this->round, PassKind::Retry);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
    }

    public function test_a_first_pass_and_loading_again_do_what_the_dry_run_said(): void
    {
        $this->migration = $this->demoMigration(self::smallDemo(), all: true);
        $before = $this->untouched();
        $run = $this->ran(DryRuns::ofFirst($this->migration, $this->migration->targets()->firstOrFail(), []));
        self::assertSame($before, $this->untouched());
        $said = $this->dry($run);
        $this->round = $this->load($this->migration);
        $real = $this->real();
        self::assertSame([], array_diff_assoc($real, $said));
        self::assertSame([], array_diff_assoc($said, $real));
        self::assertSame(count($real), $run->found['tried']);
        self::assertSame([], $run->found['unforeseen']);
        $compared = $this->round->latestPass()?->compared;
        self::assertSame([$run->id, null, count($real), count($real), []], array_values((array) $compared));

        $countries = CodeCrosswalk::query()->where('name', 'countries')->firstOrFail();
        foreach (['UKK' => 'GB', 'SCO' => 'GB'] as $old => $new) {
            $this->app->make(Repairs::class)->mapCode($this->migration, $countries, $old, $new);
        }
        $before = $this->untouched();
        $run = $this->ran(DryRuns::ofRetry($this->round));
        self::assertSame($before, $this->untouched());
        $said = $this->dry($run);
        self::assertNotSame([], $said);
        $this->again();
        self::assertEquals($said, array_diff_assoc($this->real(), $real));
    }

    public function test_a_run_without_screens_is_tried_without_writing(): void
    {
        $plan = $this->smallPlan("no,code,name\n1,AA,Ardmore\n2,,Bressay\n3,CC,\n", '{code: code, name: name}');
        $dry = function (int $code, string $round = 'r1') use ($plan): array {
            $to = self::work('dry.json');
            $said = Artisan::call('baggage:run', ['plan' => $plan, '--round' => $round, '--dry-run' => true, '--json' => $to]);
            self::assertSame($code, $said, Artisan::output());

            return json_decode((string) file_get_contents($to), true)['dry_run'];
        };
        $found = $dry(1);
        self::assertSame([3, 0], [$found['tried'], $found['as_they_are']]);
        self::assertSame(['loaded' => 1, 'rejected' => 2], array_column($found['rows'], 'rows', 'would_be'));
        self::assertSame(['required', 'required'], array_column($found['causes'], 'code'));
        self::assertSame([], $this->targetRows('SELECT * FROM harbour'));
        self::assertSame(0, DB::table('rounds')->count() + DB::table('outcomes')->count());
        Artisan::call('baggage:run', ['plan' => $plan, '--round' => 'r1']);
        self::assertSame([0, []], [$dry(0)['tried'], $dry(0)['rows']]);
        self::assertSame([], Round::query()->firstOrFail()->latestPass()->compared['kinds'] ?? null);
    }

    /** A repair is tried before it is made: afterwards loading again does what was said, no row more and none less. */
    public function test_a_supposed_repair_does_what_it_does_when_it_is_made(): void
    {
        [$this->migration, $this->round] = $this->loadedDemo(self::smallDemo());
        $made = [];
        foreach (['no_new_value', 'not_a_date', 'orphan', 'required'] as $code) {
            $cause = DB::table('causes as c')
                ->join('cause_tallies as t', 't.cause_id', '=', 'c.id')
                ->where('t.outcome', 'rejected')
                ->where('t.n', '>', 0)
                ->where('c.code', $code)->orderByRaw("c.value = 'UKK' DESC, t.n DESC")->first(['c.id', 'c.load_id', 'c.value', 'c.field']);
            if ($cause === null) {
                continue;
            }
            $load = Load::query()->findOrFail($cause->load_id);
            $made[] = $code;
            [$supposed, $make] = $this->repair($code, $load, $cause);
            $said = $this->dry($this->ran(DryRuns::ofRepair($this->round, $supposed, 'x')));
            self::assertNotSame([], $said, $code);
            $before = $this->real();
            $make();
            $waived = array_diff_assoc($this->real(), $before);
            self::assertEquals($said, $waived + $this->dry($this->ran(DryRuns::ofRetry($this->round))), $code);
            $this->again();
        }
        self::assertGreaterThan(2, count($made));
    }

    /** @return array{Supposed, \Closure} what is supposed, and how it is made */
    private function repair(string $code, Load $load, \stdClass $cause): array
    {
        [$repairs, $id] = [$this->app->make(Repairs::class), (int) $cause->id];

        return match ($code) {
            'no_new_value' => [
                new Supposed($load->id, CauseSet::one($id), code: [
                    'crosswalk' => 'countries', 'olds' => [$cause->value], 'new' => 'GB', 'rejects' => false,
                ]),
                fn () => $repairs->mapCode(
                    $this->migration, CodeCrosswalk::query()->where('name', 'countries')->firstOrFail(), $cause->value, 'GB',
                ),
            ],
            'orphan', 'required' => [
                new Supposed($load->id, CauseSet::one($id), stays: true), fn () => $repairs->waive($this->round, $load, $id, 'stays'),
            ],
            default => [
                new Supposed($load->id, CauseSet::one($id), header: 'BUILT', new: '01/02/1999'),
                fn () => $repairs->correctValue($this->round, $load, $id, 'BUILT', '01/02/1999', 'log book'),
            ],
        };
    }

    /** What the target itself would refuse: values that are the same to it, checks, records that are gone, changed and met again. */
    public function test_what_the_target_would_refuse_is_asked_of_it(): void
    {
        $more = ', code VARCHAR(20) COLLATE utf8mb4_german2_ci UNIQUE, size DECIMAL(6,2) NOT NULL DEFAULT 1, '
            .'born DATE NULL, CHECK (size * 2 < 100 OR born IS NOT NULL), CONSTRAINT late CHECK (born < \'2020-01-01\' + INTERVAL 1 YEAR)';
        $target = self::partiesAndBoats($more);
        $db = self::otherDatabase();
        DB::unprepared("INSERT INTO $db.party (name, code, size) VALUES ('There', 'Müller', 3), ('Same', 'old', 4), ('Gone', 'x', 1)");
        $folder = self::work('dry');
        @mkdir($folder, 0777, true);
        $rows = ['no,name,code,size,born'];
        $codes = ['a', 'A', 'a ', 'ae', 'ä', 'Mueller', 'MÜLLER', 'old', '', '', 'ss', 'ß', 'b', 'c', 'd', 'e', 'ŝ', 's', 'New', 'new'];
        foreach ($codes as $i => $code) {
            $size = ['1.00', '60.00', '49.99', '50.00'][$i % 4];
            $rows[] = "K$i,".($code === 'old' ? 'Same' : "N$i").",$code,$size,".['', '2001-02-03', '2022-01-01', ''][intdiv($i, 2) % 4];
        }
        file_put_contents("$folder/party.csv", implode("\n", $rows)."\n");
        file_put_contents("$folder/boat.csv", "no,name,owner\nB1,One,K0\nB2,Two,K1\nB3,Three,K99\nB4,Four,K7\n");
        $fields = ['name' => 'trim(name)', 'code' => 'nothing_if(trim(code), "")', 'size' => 'size', 'born' => 'nothing_if(born, "")'];
        file_put_contents("$folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Dry',
            'target' => $target,
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                ['name' => 'party', 'file' => 'party.csv'], ['name' => 'boat', 'file' => 'boat.csv'],
            ]]],
            'loads' => [
                [
                    'name' => 'party', 'entity' => 'party', 'from' => 'S/party', 'key' => ['no'], 'fields' => $fields,
                    'policy' => 'create_or_update', 'match' => ['name' => 'exact'],
                ],
                ['name' => 'boat', 'entity' => 'boat', 'from' => 'S/boat', 'key' => ['no'], 'fields' => [
                    'name' => 'name', 'owner' => 'parent(owner)',
                ]],
            ],
        ], 8));
        $headless = $this->app->make(Headless::class);
        $this->migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($this->migration, "$folder/plan.yaml", fn () => null);
        DB::unprepared("CREATE TRIGGER $db.stamp BEFORE INSERT ON $db.boat FOR EACH ROW "
            ."IF NEW.name = 'One' THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'not that one'; END IF");
        $run = $this->ran(DryRuns::ofFirst($this->migration, $this->migration->targets()->firstOrFail(), []));
        $said = $this->dry($run);
        $this->round = $this->load($this->migration);
        $real = $this->real();
        self::assertSame(['2 1' => 'loaded'], array_diff_assoc($said, $real));
        self::assertSame(array_keys($real), array_keys($said));
        [$kind] = $this->round->latestPass()->compared['kinds'] ?? [];
        self::assertSame(['loaded', 'rejected', 1], [$kind['said'], $kind['is'], $kind['n']]);
        self::assertStringContainsString('not that one', $kind['because']);
        self::assertGreaterThan(2, count(array_unique(array_values($said))), json_encode($said));
        self::assertStringContainsString('the trigger "stamp" of boat', implode(' ', $run->found['unforeseen']));
    }
}
