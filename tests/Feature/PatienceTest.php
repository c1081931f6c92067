<?php

namespace Tests\Feature;

use App\Loading\MakesRoom;
use App\Loading\PassLog;
use App\Loading\PassRunner;
use App\Loading\Patience;
use App\Loading\Rounds;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassState;
use App\Models\Role;
use App\Models\Round;
use App\Models\Target;
use App\Plans\Headless;
use Baggage\Core\Loading\TargetUnavailable;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** Targets that refuse or do not answer: waited for, longer each time, told with the time of the next try, stopped, resumed. */
final class PatienceTest extends TestCase
{
    private Migration $migration;

    private Round $round;

    private function pass(string $rows = "no,name\nK1,Ann\nK2,Bo\n", string $more = ''): Pass
    {
        $folder = self::work('patience');
        @mkdir($folder, 0777, true);
        file_put_contents("$folder/party.csv", $rows);
        file_put_contents("$folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Patience',
            'target' => self::partiesAndBoats($more),
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [['name' => 'party', 'file' => 'party.csv']]]],
            'loads' => [[
                'name' => 'party', 'entity' => 'party', 'from' => 'S/party', 'key' => ['no'],
                'fields' => ['name' => 'name'] + ($more === '' ? [] : ['note' => 'note']),
            ]],
        ], 8));
        $headless = $this->app->make(Headless::class);
        $this->migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($this->migration, "$folder/plan.yaml", fn () => null);
        $rounds = $this->app->make(Rounds::class);
        $this->round = $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-1');

        return $rounds->pass($this->round, PassKind::First);
    }

    /** @return list<string> */
    private function said(Pass $pass): array
    {
        return array_reverse(array_map(fn ($l) => $l->what, PassLog::of([$pass->id])[$pass->id]));
    }

    public function test_a_target_that_is_away_is_waited_for_then_the_pass_stops_and_is_resumed(): void
    {
        $pass = $this->pass();
        config(['baggage.patience' => ['1', '2']]);
        $target = Target::query()->firstOrFail();
        $port = $target->port;
        $target->update(['port' => '9']);
        $began = microtime(true);
        PassRunner::of($pass->refresh())->work();
        self::assertGreaterThan(2.9, microtime(true) - $began);
        self::assertSame(PassState::Stopped, $pass->refresh()->state);
        self::assertStringContainsString('can be resumed', (string) $pass->error);
        $said = $this->said($pass);
        self::assertSame('It began.', $said[0]);
        self::assertMatchesRegularExpression('/It is tried again, for the 2\. time of 3\.$/', $said[1]);
        self::assertMatchesRegularExpression('/for the 3\. time of 3\.$/', $said[2]);
        $times = DB::table('pass_log')->where('pass_id', $pass->id)->whereNotNull('next_try_at')->get();
        self::assertSame([1, 2], $times->map(fn ($l) => (int) round(strtotime($l->next_try_at) - strtotime($l->at)))->all());
        $this->actingAs($this->user(Role::Lead));
        $this->get("/m/{$this->migration->id}/runs")->assertReads('for the 3. time of 3. Next try at')->assertReads('Log, 4 lines');
        $target->update(['port' => $port]);
        config(['queue.default' => 'null']);
        $this->app->make(Rounds::class)->resume($pass->refresh());
        PassRunner::of($pass->refresh(), 0)->work();
        self::assertSame(PassState::Finished, $pass->refresh()->state, (string) $pass->error);
        self::assertSame(['It was resumed.', 'It ended.'], array_slice($this->said($pass), -2));
        self::assertSame(2, DB::table('outcomes')->where('outcome', 'loaded')->count());
    }

    /** RFC 9110, 10.2.3: who says how long to wait is not asked before. */
    public function test_what_the_target_says_is_honoured_and_who_waits_can_be_called_away(): void
    {
        $pass = $this->pass();
        config(['baggage.patience' => ['0', '0', '0']]);
        $patience = new Patience($pass, 1);
        $tries = 0;
        $began = microtime(true);
        self::assertSame('done', $patience->during(function () use (&$tries) {
            return ++$tries < 3 ? throw TargetUnavailable::askingForTime('The target is busy.', 1) : 'done';
        }));
        self::assertGreaterThan(1.9, microtime(true) - $began);
        self::assertSame('The target answers again.', $this->said($pass)[array_key_last($this->said($pass))]);
        $away = fn () => throw TargetUnavailable::askingForTime('The target is busy.', 60);
        $began = microtime(true);
        $patience->leavesWhere(fn () => true);
        try {
            $patience->during($away);
            self::fail();
        } catch (MakesRoom) {
            self::assertLessThan(5, microtime(true) - $began);
        }
        // Paused while it waits.
        $patience->leavesWhere(fn () => false);
        $pass->update(['stop_requested' => true]);
        $this->expectException(TargetUnavailable::class);
        $patience->during($away);
    }

    /** A record the target cannot take at once would break its connection, and all rows beside it with it. */
    public function test_a_record_larger_than_the_target_takes_is_refused_alone(): void
    {
        $long = str_repeat('x', 1_200_000);
        $pass = $this->pass("no,name,note\nK1,Ann,a\nK2,Bo,$long\nK3,Cy,c\n", ', note LONGTEXT NULL');
        $packet = DB::scalar('SELECT @@GLOBAL.max_allowed_packet');
        DB::statement('SET GLOBAL max_allowed_packet = 1048576');
        try {
            PassRunner::of($pass, 0)->work();
        } finally {
            DB::statement("SET GLOBAL max_allowed_packet = $packet");
        }
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        self::assertSame(['loaded', 'rejected', 'loaded'], DB::table('outcomes')->orderBy('item')->pluck('outcome')->all());
        self::assertStringContainsString('Longer than the target takes at once', (string) DB::table('causes')->value('message'));
    }
}
