<?php

namespace Tests\Feature;

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Mapping\RuleBook;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Models\Rule;
use App\Plans\Headless;
use App\Reconciling\Proofs;
use App\Rejects\Repairs;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** What a round was begun with it ends with, whatever is delivered, decided or added meanwhile. */
final class SecondTakeTest extends TestCase
{
    private Migration $migration;

    private string $plan;

    private function begin(string $csv, string $fields = '{code: code, name: name}'): Round
    {
        $this->plan = $this->smallPlan($csv, $fields);
        $headless = $this->app->make(Headless::class);
        $this->migration = $headless->import($this->plan);
        $headless->freeze($this->migration, $this->plan, fn () => null);
        $this->actingAs($this->user(Role::Consultant));
        $rounds = $this->app->make(Rounds::class);

        return $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-1');
    }

    private function newTake(string $csv): void
    {
        file_put_contents(dirname($this->plan).'/file.csv', $csv);
        $this->app->make(Headless::class)->freeze($this->migration, $this->plan, fn () => null);
        self::assertSame(2, $this->migration->extracts()->firstOrFail()->take?->number);
    }

    private function pass(Round $round, PassKind $kind): Pass
    {
        $pass = $this->app->make(Rounds::class)->pass($round, $kind);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);

        return $pass;
    }

    /** A first pass that stops after its first stretch of two rows. */
    private function stopped(Round $round): Pass
    {
        config(['baggage.batch' => 2]);
        $pass = $this->app->make(Rounds::class)->pass($round, PassKind::First);
        DB::listen(function ($query) use ($pass) {
            if (str_contains($query->sql, 'update `pass_loads`') && str_contains($query->sql, 'cursor_row')) {
                Pass::query()->whereKey($pass->id)->update(['stop_requested' => true]);
            }
        });
        PassRunner::of($pass, 0)->work();
        DB::getEventDispatcher()->forget(\Illuminate\Database\Events\QueryExecuted::class);
        self::assertSame('stopped', $pass->refresh()->state->value, (string) $pass->error);
        self::assertSame(2, (int) $pass->passLoads()->sum('cursor_row'));

        return $pass;
    }

    private function resume(Pass $pass): void
    {
        $pass->update(['state' => 'queued', 'stop_requested' => false]);
        PassRunner::of($pass->refresh(), 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
    }

    /** @return list<list<string>> */
    private function harbours(): array
    {
        return $this->targetRows('SELECT code, name FROM harbour ORDER BY code');
    }

    public function test_rows_loaded_again_are_those_of_the_take_the_round_works_on(): void
    {
        $round = $this->begin("no,code,name\n1,AA,Ardmore\n2,,Bressay\n3,CC,Culross\n");
        $this->pass($round, PassKind::First);
        $this->newTake("no,code,name\n0,ZZ,Zetland\n1,AA,Ardmore\n2,,Bressay\n3,CC,Culross\n");
        $load = Load::query()->firstOrFail();
        $this->app->make(RuleBook::class)->write($load, 'code', 1, "first(code, 'BB')", null, null, null);
        $this->pass($round, PassKind::Retry);
        self::assertSame([['AA', 'Ardmore'], ['BB', 'Bressay'], ['CC', 'Culross']], $this->harbours());
        $keys = $this->lines()->where('round_id', $round->id)->orderBy('row_no')->pluck('legacy_key')->all();
        self::assertSame(['1', '2', '3'], $keys, 'every key once, none lost');
        self::assertSame(0, Proofs::of($round)->loads()[$load->id]->unaccounted());
    }

    public function test_a_pass_resumed_reads_the_columns_of_its_own_take(): void
    {
        $round = $this->begin("no,code,name\n1,AA,Ardmore\n2,BB,Bressay\n3,CC,Culross\n4,DD,Durness\n");
        $pass = $this->stopped($round);
        $this->newTake("no,name,code\n1,Ardmore,AA\n2,Bressay,BB\n3,Culross,CC\n4,Durness,DD\n5,Elie,EE\n");
        $this->resume($pass);
        self::assertSame(
            [['AA', 'Ardmore'], ['BB', 'Bressay'], ['CC', 'Culross'], ['DD', 'Durness']],
            $this->harbours(),
        );
    }

    public function test_a_pass_resumed_goes_by_the_rules_it_was_begun_with(): void
    {
        $round = $this->begin("no,code,name\n1,AA,Ardmore\n2,BB,Bressay\n3,CC,Culross\n4,DD,Durness\n");
        $pass = $this->stopped($round);
        Rule::query()->where('field', 'name')->update(['expression' => 'upper(name)']);
        Load::query()->update(['scope' => "no != '4'", 'scope_reason' => 'no fours']);
        $this->resume($pass);
        self::assertSame(
            [['AA', 'Ardmore'], ['BB', 'Bressay'], ['CC', 'Culross'], ['DD', 'Durness']],
            $this->harbours(),
        );
        self::assertSame(64, strlen((string) $pass->refresh()->plan?->hash));
        $next = $this->app->make(Rounds::class)->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-2');
        $this->target()->exec('DELETE FROM harbour');
        $second = $this->pass($next, PassKind::First);
        self::assertSame([['AA', 'ARDMORE'], ['BB', 'BRESSAY'], ['CC', 'CULROSS']], $this->harbours());
        self::assertNotSame($pass->plan?->hash, $second->plan?->hash);
    }

    public function test_the_same_definition_is_kept_once(): void
    {
        $round = $this->begin("no,code,name\n1,AA,Ardmore\n2,,Bressay\n");
        $this->pass($round, PassKind::First);
        $this->pass($round, PassKind::Retry);
        self::assertSame(1, DB::table('plan_versions')->count());
        self::assertSame([1], DB::table('passes')->distinct()->selectRaw('COUNT(DISTINCT plan_version_id) AS n')->pluck('n')->all());
    }

    public function test_a_load_added_later_changes_no_figure_of_the_round(): void
    {
        $round = $this->begin("no,code,name\n1,AA,Ardmore\n2,,Bressay\n");
        $this->pass($round, PassKind::First);
        $before = array_map(fn ($p) => $p->outcomes, Proofs::of($round)->loads());
        $first = Load::query()->firstOrFail();
        $second = $this->migration->loads()->create([
            'name' => 'Second', 'entity_id' => $first->entity_id, 'extract_id' => $first->extract_id, 'position' => 2,
            'key_columns' => ['no'], 'policy' => 'create',
        ]);
        $second->rules()->create(['field' => 'code', 'expression' => 'code']);
        $second->rules()->create(['field' => 'name', 'expression' => 'name']);
        $proofs = Proofs::of($round)->loads();
        self::assertSame($before, array_map(fn ($p) => $p->outcomes, $proofs));
        self::assertArrayNotHasKey($second->id, $proofs);
        $m = "/m/{$this->migration->id}";
        $this->get("$m/reconciliation")->assertOk()->assertReads('2 rows came in');
        $this->get("$m/rejects")->assertOk()->assertDontSee('again');
        $this->get("$m/runs")->assertOk()->assertReads('Second is not in this round');
        $this->pass($round, PassKind::Retry);
        self::assertSame(0, $this->lines()->where('load_id', $second->id)->count());
    }

    public function test_rows_a_stopped_pass_has_not_read_are_not_called_repaired(): void
    {
        $round = $this->begin("no,code,name\n1,AA,Ardmore\n2,BB,Bressay\n3,CC,Culross\n4,DD,Durness\n");
        $this->stopped($round);
        $this->get("/m/{$this->migration->id}/rejects")->assertOk()->assertDontSee('repaired')->assertDontSee('again');
        $proof = array_values(Proofs::of($round)->loads())[0];
        self::assertSame([2, 2], [$proof->count(Outcome::Pending), $proof->notReached]);
    }

    public function test_a_correction_made_in_mid_pass_waits_for_the_next(): void
    {
        $round = $this->begin("no,code,name\n1,AA,Ardmore\n2,BB,Bressay\n3,CC,Culross\n4,DD,Durness\n");
        $pass = $this->stopped($round);
        $this->app->make(Repairs::class)->correctCell($round, Load::query()->firstOrFail(), 3, 'name', 'Cromarty', 'x');
        $this->resume($pass);
        self::assertSame('Culross', $this->harbours()[2][1]);
    }
}
