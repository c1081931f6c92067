<?php

namespace Tests\Feature;

use App\Models\CodeCrosswalk;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Round;
use App\Models\Source;
use App\Models\Target;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Event;
use Tests\TestCase;

/** Two people, or two presses, that make the same at the same moment: it is there once, and the second is told. */
final class SameMomentTest extends TestCase
{
    /** The other gets in between the look and the writing. */
    private function meanwhile(string $model): void
    {
        $isDone = false;
        Event::listen("eloquent.creating: $model", function (object $made) use (&$isDone) {
            if (! $isDone) {
                $isDone = true;
                DB::table($made->getTable())->insert($made->getAttributes());
            }
        });
    }

    public function test_one_makes_it_and_the_other_is_told(): void
    {
        $migration = $this->demoMigration(self::smallDemo());
        $this->actingAs($this->user(Role::Lead));
        $m = "/m/$migration->id";
        $load = Load::query()->firstOrFail();
        $place = ['host' => '127.0.0.1', 'port' => '1', 'database' => 'x', 'username' => 'x', 'password' => 'x'];
        $makes = [
            [Source::class, "$m/sources", ['code' => 'RC', 'name' => 'race']],
            [CodeCrosswalk::class, "$m/crosswalks/codes", ['name' => 'race']],
            [Load::class, "$m/mapping/loads", ['entity' => $load->entity->name, 'extract' => $load->extract_id, 'name' => 'race']],
            [Target::class, "$m/connections", ['name' => 'race', 'driver' => 'mysql'] + $place],
            [Round::class, "$m/runs/rounds", ['name' => 'race', 'kind' => 'rehearsal', 'target' => Target::query()->value('id'),
                'parameters' => ['cutover_date' => '2026-12-31']]],
            [Migration::class, '/migrations', ['name' => 'race', 'target_name' => 'x'] + $place],
        ];
        foreach ($makes as [$model, $address, $data]) {
            $before = $model::query()->count();
            $this->meanwhile($model);
            $answer = $this->from("$m/sources")->post($address, $data);
            self::assertSame(302, $answer->status(), $address);
            $answer->assertSessionHas('refused', fn (string $says) => str_contains($says, 'at the same moment'));
            // Where all is one transaction, the other's writing of this test ends with it.
            self::assertLessThanOrEqual($before + 1, $model::query()->count(), $address);
        }
        $this->meanwhile(User::class);
        $this->post("$m/people", ['name' => 'R', 'email' => 'race@example.test', 'role' => 'auditor'])->assertSessionHas('refused');
        self::assertSame(0, DB::table('memberships')->whereNotIn('user_id', User::query()->select('id'))->count());
    }
}
