<?php

namespace Tests\Feature;

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** The target and the account are tried before the first row, and what the target refuses is said so that one can act on it. */
final class TargetReadyTest extends TestCase
{
    private Migration $migration;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->imported("no,name,size,kind\nK1,Ann,3,a\n");
    }

    private function imported(string $csv): Migration
    {
        $folder = self::work('ready');
        @mkdir($folder, 0777, true);
        file_put_contents("$folder/people.csv", $csv);
        $target = self::partiesAndBoats(', code VARCHAR(4) NULL UNIQUE, size TINYINT UNSIGNED NULL, kind VARCHAR(1) NULL, note TEXT NULL, '
            ."CONSTRAINT size_by_kind CHECK (kind <> 'x' OR size > 10)");
        file_put_contents("$folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Ready',
            'target' => $target,
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [['name' => 'people', 'file' => 'people.csv']]]],
            'loads' => [[
                'name' => 'People', 'entity' => 'party', 'from' => 'S/people', 'key' => ['no'],
                'fields' => ['name' => 'name', 'code' => 'no', 'size' => 'size', 'kind' => 'kind'],
            ]],
        ], 8));
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($migration, "$folder/plan.yaml", fn () => null);

        return $migration;
    }

    private function pass(): Pass
    {
        $rounds = $this->app->make(Rounds::class);
        $round = $this->migration->rounds()->first()
            ?? $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-1');

        return $rounds->pass($round, $round->latestPass() === null ? PassKind::First : PassKind::Retry);
    }

    private function party(string $alter): void
    {
        DB::unprepared('ALTER TABLE '.self::otherDatabase().".party $alter");
    }

    /** @return iterable<string, array{string, string}> */
    public static function changes(): iterable
    {
        yield 'a field is gone' => ['DROP COLUMN kind, DROP CONSTRAINT size_by_kind', 'party has no kind.'];
        yield 'a field nobody fills is required' => ['ADD COLUMN vat CHAR(9) NOT NULL', 'party requires vat, and no rule fills it.'];
        yield 'the key is another' => ['CHANGE COLUMN id party_no INT AUTO_INCREMENT', 'The key of party is party_no, not id.'];
        yield 'it gives the value itself' => [
            'DROP COLUMN code, ADD COLUMN code VARCHAR(4) AS (LEFT(name, 4))',
            'gives party.code its value',
        ];
    }

    #[DataProvider('changes')]
    public function test_a_target_that_is_not_as_described_is_told_before_the_first_row(string $alter, string $says): void
    {
        DB::unprepared('ALTER TABLE '.self::otherDatabase().'.boat DROP FOREIGN KEY boat_ibfk_1');
        $this->party($alter);
        try {
            $this->pass();
            self::fail('No row could be written.');
        } catch (\DomainException $e) {
            self::assertStringContainsString($says, $e->getMessage());
            self::assertStringContainsString('Read its description again', $e->getMessage());
        }
        self::assertSame(0, DB::table('passes')->count());
    }

    public function test_what_the_description_does_not_say_is_told_with_the_pass(): void
    {
        $this->party('MODIFY COLUMN name VARCHAR(2) NOT NULL, ADD UNIQUE KEY (name, kind), MODIFY COLUMN size INT NOT NULL');
        $pass = $this->pass();
        PassRunner::of($pass, 0)->work();
        $told = [
            'party.name takes 2 characters, not 40.',
            'party.size is whole number from -2147483648 to 2147483647, not whole number from 0 to 255.',
            'party.size is required, which the description does not say.',
            'party takes each name with kind once, which the description does not say.',
        ];
        self::assertSame($told, $pass->refresh()->told);
        self::assertContains("The target is not as described: $told[0]", (new Report)->of($pass->round)['warnings']);
        $cause = DB::table('causes')->first();
        self::assertSame(['too_long', 'name', 'Ann'], [$cause->code, $cause->field, $cause->value]);
        self::assertSame("Longer than the target takes (the target says: Data too long for column 'name')", $cause->message);
        $this->actingAs($this->user(Role::Lead))->get("/m/{$this->migration->id}/runs")->assertOk()->assertSee($told[0]);
    }

    /** @return iterable<string, array{string, list<string>}> */
    public static function rights(): iterable
    {
        yield 'no right to delete' => ['SELECT, INSERT, UPDATE, CREATE', ['GRANT DELETE ON']];
        yield 'no right to change' => ['SELECT, INSERT, DELETE, CREATE', ['GRANT UPDATE ON']];
        yield 'only to read' => ['SELECT', ['GRANT INSERT', 'GRANT CREATE']];
    }

    /** @param  list<string>  $says */
    #[DataProvider('rights')]
    public function test_missing_rights_are_told_before_the_first_row_with_what_to_grant(string $rights, array $says): void
    {
        DB::unprepared("CREATE OR REPLACE USER little@'127.0.0.1' IDENTIFIED BY 'x'; GRANT $rights ON "
            .self::otherDatabase().".* TO little@'127.0.0.1'");
        $this->migration->targets()->update(['username' => 'little', 'password_env' => null]);
        $this->migration->targets()->firstOrFail()->update(['password' => 'x']);
        try {
            $this->pass();
            self::fail('The account may not do all a pass does.');
        } catch (\DomainException $e) {
            foreach ($says as $part) {
                self::assertStringContainsString($part, $e->getMessage());
            }
            self::assertStringNotContainsString('SQLSTATE', $e->getMessage());
        }
        self::assertSame(0, DB::table('passes')->count());
        DB::unprepared('GRANT ALL ON '.self::otherDatabase().".* TO little@'127.0.0.1'");
        $pass = $this->pass();
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', 1], [$pass->refresh()->state->value, (int) $this->lines()->where('outcome', 'loaded')->count()]);
        DB::unprepared("DROP USER little@'127.0.0.1'");
    }

    /** Which legacy key has the value, or which record that was there before; which check, over which fields. */
    public function test_refusals_are_said_in_words(): void
    {
        $this->migration = $this->imported("no,name,size,kind\nK1,Ann,3,a\nk1,Bo,4,b\nOLD,Cy,5,c\nK4,Di,6,x\nK5,Eve,60,x\n");
        DB::unprepared('INSERT INTO '.self::otherDatabase().".party (id, name, code) VALUES (501, 'There before', 'old')");
        $pass = $this->pass();
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        $of = fn (object $c) => [$c->stage, $c->code, $c->field, $c->value, $c->message];
        $causes = DB::table('causes')->orderBy('id')->get()->map($of)->all();
        sort($causes);
        self::assertSame([
            ['matching', 'taken', 'code', 'OLD', 'Already taken by record 501, which the target had before'],
            ['matching', 'taken', 'code', 'k1', 'Already taken by K1, row 1'],
            [
                'writing', 'check_failed', 'size, kind', '6, x',
                "The target's check \"size_by_kind\" does not hold: kind <> 'x' or size > 10 "
                    .'(the target says: CONSTRAINT `size_by_kind` failed for `'.self::otherDatabase().'`.`party`)',
            ],
        ], $causes);
        $load = $this->migration->loads()->value('id');
        $holder = $this->actingAs($this->user(Role::Lead))->get("/m/{$this->migration->id}/rows/$load/1")->assertOk();
        $holder->assertSee("/rows/$load/2", false)->assertSee('was refused for it');
        $page = $this->get("/m/{$this->migration->id}/rejects")->assertOk();
        $page->assertSee('Already taken by another record')->assertSee('size_by_kind');
    }
}
