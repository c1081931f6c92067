<?php

namespace Tests\Feature;

use App\Models\Role;
use App\Models\Target;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** A target that refuses or is gone: whatever is asked of it on a screen is refused with its words, and nothing is half done. */
final class TargetDownTest extends TestCase
{
    /** FU10, FS17: the application's own database is away; what is said, and with which headers, on whatever address. */
    public function test_the_own_database_is_away(): void
    {
        $lead = $this->user(Role::Lead);
        $this->actingAs($lead);
        $port = config('database.connections.mariadb.port');
        config(['database.connections.mariadb.port' => 1]);
        DB::purge();
        try {
            foreach (['/', '/account', '/m/1/runs'] as $address) {
                $this->get($address)->assertStatus(503)->assertHeader('Retry-After')->assertReads('goes on where it was');
            }
            $this->post('/account', ['name' => 'x'])->assertStatus(503)->assertDontSee('SQLSTATE');
        } finally {
            config(['database.connections.mariadb.port' => $port]);
            DB::purge();
        }
        $this->get('/account')->assertOk();
        // Answers of the framework carry the same headers as pages do.
        foreach ([$this->get('/nowhere'), $this->post('/nowhere'), $this->call('PATCH', '/account'), $this->get('/m/x/runs')] as $answer) {
            self::assertContains($answer->status(), [404, 405]);
            $answer->assertHeader('Content-Security-Policy')->assertHeader('X-Content-Type-Options');
        }
    }

    public function test_every_route_that_may_reach_the_target_says_what_is_wrong(): void
    {
        [$migration, $round] = $this->loadedDemo(self::smallDemo());
        $this->actingAs($this->user(Role::Lead));
        $m = "/m/$migration->id";
        $target = Target::query()->firstOrFail();
        $target->update(['username' => 'nobody', 'from_command_line' => true]);
        $load = $migration->loads()->value('id');
        $before = [DB::table('passes')->count(), DB::table('rounds')->count(), DB::table('plan_versions')->count()];
        $asked = [
            "$m/runs/again" => [],
            "$m/runs/rounds" => ['name' => 'rehearsal-2', 'kind' => 'rehearsal', 'target' => $target->id,
                'parameters' => ['cutover_date' => '2026-12-31']],
            "$m/target/read" => ['target' => $target->id],
        ];
        foreach ($asked as $address => $data) {
            $answer = $this->from("$m/runs")->post($address, $data);
            self::assertSame(302, $answer->status(), $address);
            $answer->assertSessionHas('refused', fn (string $says) => str_contains($says, 'refuses the user "nobody"'));
        }
        self::assertSame($before, [DB::table('passes')->count(), DB::table('rounds')->count(), DB::table('plan_versions')->count()]);
        // What counts or looks in the background says it on its screen.
        foreach (["$m/runs/records", "$m/target/count", "$m/reconciliation/count", "$m/mapping/loads/$load/check"] as $address) {
            self::assertLessThan(500, $this->from("$m/runs")->post($address, ['round' => $round->id])->status(), $address);
        }
        foreach (['target', 'connections', 'runs', 'rejects', 'reconciliation', 'gaps', 'rows', 'mapping', 'order'] as $screen) {
            $this->get("$m/$screen")->assertOk();
        }
    }
}
