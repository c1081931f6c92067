<?php

namespace Tests\Feature;

use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Repair;
use App\Models\Role;
use App\Models\Take;
use App\Reconciling\Report;
use Baggage\Core\Plan\PlanError;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** Bad files and bad rules: a specific message, and nothing lost or half done. */
final class BadInputTest extends TestCase
{
    /** @param  array<string, mixed>  $reader */
    private function upload(
        Migration $migration,
        string $bytes,
        array $reader = [],
        string $name = 'legacy.csv',
    ): string {
        $this->actingAs($this->user(Role::Consultant));
        $answer = $this->from("/m/$migration->id/sources")->post("/m/$migration->id/sources/upload", [
            'source' => $migration->sources()->value('id'),
            'file' => UploadedFile::fake()->createWithContent($name, $bytes),
        ]);
        if (session('refused')) {
            return (string) session('refused');
        }
        $preview = $this->get((string) $answer->headers->get('Location'));
        $preview->assertOk();
        $form = [
            'reader' => $reader + [
                'kind' => 'delimited',
                'delimiter' => ',',
                'quote' => '"',
                'encoding' => 'UTF-8',
                'header' => '1',
                'skip' => '0',
            ],
            'name' => 'legacy',
        ];
        $this->post((string) $answer->headers->get('Location'), $form)->assertRedirect();
        $take = Take::query()->latest('id')->firstOrFail();

        return $take->state->value === 'frozen' ? 'frozen '.$take->rows : (string) $take->error;
    }

    /** @return iterable<string, array{string, string, 2?: array<string, mixed>}> */
    public static function files(): iterable
    {
        yield 'empty' => ['', 'The file is empty: it has 0 bytes'];
        yield 'header only' => ["a,b\n", 'a header but no rows below it'];
        yield 'a picture' => [
            "\x89PNG\r\n\x1a\n\0\0\0\rIHDR",
            'This is not delimited text: it begins like a PNG picture',
        ];
        yield 'a workbook' => ["PK\x03\x04zzz", 'The zip archive is damaged'];
        yield 'NUL bytes' => ["a,b\n1,\0\0\0\0\0\0\n", 'it holds NUL bytes'];
        yield 'unclosed quote' => ["a,b\n1,\"x\n2,y\n", 'The quote opened in line 2 is never closed'];
        yield 'windows read as utf-8' => ["a,b\n1,Bj\xF8rn\n", 'Line 2 holds bytes that are not UTF-8 (hex F8'];
        yield 'invalid utf-8 in mid-file' => ["a,b\n1,ø\n2,\xC3\x28\n", 'Line 3 holds bytes that are not UTF-8'];
        yield 'undefined in windows-1252' => [
            "a,b\n1,\x81\n",
            'not Windows-1252 (hex 81)',
            ['encoding' => 'Windows-1252'],
        ];
        yield 'utf-16' => [
            "\xFF\xFE".iconv('UTF-8', 'UTF-16LE', "a,b\n1,ø\n"),
            'frozen 1',
            ['encoding' => 'UTF-16LE'],
        ];
        yield 'utf-16 cut in mid-character' => [
            "\xFF\xFEa\0,\0b\0\n\0x",
            'Line 2 holds bytes that are not UTF-16LE',
            ['encoding' => 'UTF-16LE'],
        ];
        yield 'all lines skipped' => ["a,b\n1,2\n", 'The first 9 lines are to be skipped', ['skip' => '9']];
        yield 'ragged' => ["a,b\n1\n1,2,3\n", 'frozen 2'];
        yield 'duplicate and blank headers' => ["a,a,\n1,2,3\n", 'frozen 1'];
        yield '2,000 columns' => [
            implode(',', range(1, 2000))."\n".implode(',', range(1, 2000))."\n",
            'frozen 1',
        ];
        yield '5,000 columns' => [
            implode(',', array_map(fn ($i) => "c$i", range(1, 5000)))."\n1\n",
            'The header has 5,000 columns; 4,096 can be taken',
        ];
        yield 'no line break at the end' => ["a,b\n1,2", 'frozen 1'];
    }

    /** @param  array<string, mixed>  $reader */
    #[DataProvider('files')]
    public function test_a_file(string $bytes, string $says, array $reader = []): void
    {
        $migration = $this->migration();
        self::assertStringContainsString($says, $this->upload($migration, $bytes, $reader));
        $frozen = str_starts_with($says, 'frozen');
        self::assertSame($frozen ? (int) substr($says, 7) : 0, DB::table('staged_rows')->count());
        $extract = Extract::query()->first();
        self::assertSame($frozen, $extract?->take_id !== null);
        foreach (['sources', ...$extract === null ? [] : ["sources/extracts/$extract->id"]] as $page) {
            $this->get("/m/$migration->id/$page")->assertOk();
        }
    }

    public function test_a_failed_take_leaves_the_one_before_in_force(): void
    {
        $migration = $this->migration();
        $this->upload($migration, "a,b\n1,2\n3,4\n");
        $extract = Extract::query()->firstOrFail();
        $take = $extract->take_id;
        $this->upload($migration, "a,b\n1,\"2\n");
        self::assertSame([$take, 2], [$extract->refresh()->take_id, DB::table('staged_rows')->count()]);
        $this->get("/m/$migration->id/sources")->assertSee('The extract keeps take 1');
        $this->upload($migration, "a,b\n1,2\n");
        self::assertSame(3, $extract->refresh()->take->number);
    }

    public function test_remarks_on_what_is_odd(): void
    {
        $migration = $this->migration();
        $this->upload($migration, "a,a,\n".str_repeat("1,2,3\n", 999).'1,2');
        $remarks = DB::table('findings')->pluck('message')->implode(' ');
        foreach (
            [
                'both have the header "a"',
                'Column 3 has no header',
                '1 row has more or fewer cells',
                'does not end in a line break',
                'Exactly 1,000 rows',
            ] as $part
        ) {
            self::assertStringContainsString($part, $remarks);
        }
    }

    /** @return iterable<string, array{string, string|null, string}> */
    public static function rules(): iterable
    {
        yield 'unknown column' => ['code', 'upper(nr)', 'has no column "nr"'];
        yield 'unknown function' => ['code', 'uppper(no)', 'There is no function "uppper"'];
        yield 'required field without rule' => ['name', null, 'the field "name" is required and has no rule'];
    }

    #[DataProvider('rules')]
    public function test_a_load_that_cannot_run_says_why_and_what_it_blocks(string $field, ?string $rule, string $says): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n2,b\n", '{code: no, name: name}');
        file_put_contents(
            $plan,
            str_replace(
                'loads: [',
                'loads: [{name: Berths, entity: berth, from: S/file, key: [no], fields: {harbour: parent(no), code: no}}, ',
                (string) file_get_contents($plan),
            ),
        );
        $migration = $this->demoMigration(dirname($plan));
        // A plan with such a rule is refused; a column may go with the next take, and a field become required.
        $rules = DB::table('rules')->where('field', $field)->whereIn('load_id', DB::table('loads')->where('name', 'L')->select('id'));
        $rule === null ? $rules->delete() : $rules->update(['expression' => $rule]);
        $report = (new Report)->of($this->load($migration));
        self::assertSame('failed', $report['state'], (string) $report['error']);
        self::assertStringContainsString($says, (string) collect($report['loads'])->firstWhere('load', 'L')['error']);
        self::assertStringContainsString(
            'Waits for load "L", which failed',
            (string) collect($report['loads'])->firstWhere('load', 'Berths')['error'],
        );
        self::assertSame([2, 0], [$report['loads'][0]['outcomes']['pending'], $report['loads'][0]['unaccounted']]);
        $this->actingAs($this->user(Role::Lead))
            ->get("/m/$migration->id/mapping/harbour")
            ->assertOk()
            ->assertSee($says);
    }

    public function test_a_rule_that_fails_on_some_rows_rejects_those_alone(): void
    {
        $migration = $this->demoMigration(
            dirname($this->smallPlan("no,name,n\n1,a,2\n2,b,0\n3,c,x\n4,d,8\n", '{code: 8 / n, name: name}')),
        );
        $report = (new Report)->of($this->load($migration));
        self::assertSame(
            [2, 2],
            [$report['loads'][0]['outcomes']['loaded'], $report['loads'][0]['outcomes']['rejected']],
        );
        self::assertEqualsCanonicalizing(
            ['division_by_zero', 'not_a_number'],
            array_column($report['loads'][0]['causes'], 'code'),
        );
        self::assertSame([['4', 'a'], ['1', 'd']], $this->targetRows('SELECT code, name FROM harbour ORDER BY id'));
    }

    public function test_what_the_target_alone_refuses_is_isolated(): void
    {
        // 60 rows, one with a country the target does not have: only its foreign key can tell.
        $csv = "no,name,c\n"
            .implode('', array_map(fn ($i) => "$i,n$i,".($i === 37 ? 'XX' : 'GB')."\n", range(1, 60)));
        $migration = $this->demoMigration(
            dirname($this->smallPlan($csv, "{kind: \"'person'\", name: name, country: c}", 'party')),
        );
        $report = (new Report)->of($this->load($migration));
        self::assertSame(
            [59, 1],
            [$report['loads'][0]['outcomes']['loaded'], $report['loads'][0]['outcomes']['rejected']],
        );
        [$cause] = $report['loads'][0]['causes'];
        self::assertSame(
            ['writing', 'unknown_parent', 'country', 1, 'XX', 0],
            [$cause['stage'], $cause['code'], $cause['field'], $cause['rows'], $cause['values'][0]['value'], $cause['more_values']],
        );
    }

    public function test_hostile_values_stay_values(): void
    {
        $evil = [
            "x'); DROP TABLE party; --",
            '<script>alert(1)</script>',
            "back\\slash\ttab",
            '\\N',
            '{{ 7*7 }}',
            "=cmd|'/c calc'!A1",
        ];
        $csv = "no,name\n"
            .implode(
                '',
                array_map(fn ($i, $v) => "$i,\"".str_replace('"', '""', $v)."\"\n", array_keys($evil), $evil),
            );
        $migration = $this->demoMigration(dirname($this->smallPlan($csv, '{code: no, name: name}')));
        $this->load($migration);
        self::assertSame($evil, array_column($this->targetRows('SELECT name FROM harbour ORDER BY id'), 0));
        $page = $this->actingAs($this->user(Role::Auditor))->get(
            "/m/$migration->id/sources/extracts/".Extract::query()->value('id'),
        );
        $page->assertOk()->assertDontSee('<script>alert(1)', false)->assertSee('&lt;script&gt;alert(1)', false);
        self::assertStringContainsString("script-src 'self'", (string) $page->headers->get('Content-Security-Policy'));
        self::assertStringNotContainsString('unsafe', (string) $page->headers->get('Content-Security-Policy'));
    }

    public function test_a_target_that_does_not_answer_is_named(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n", '{code: no, name: name}');
        file_put_contents($plan, str_replace('${HARBOUR_OFFICE_PORT}', '1', (string) file_get_contents($plan)));
        try {
            $this->demoMigration(dirname($plan));
            self::fail('imported');
        } catch (PlanError $e) {
            self::assertStringContainsString('No database answers at 127.0.0.1 port 1', $e->getMessage());
        }
        self::assertSame(0, Migration::query()->count());
    }

    /** Two rows with one key stay behind for two causes: who takes one decision back takes the other not. */
    public function test_rows_with_one_key_left_behind_for_two_causes(): void
    {
        $csv = "no,name,kind\nK1,,person\nK1,Ann,ghost\nK2,Flo,person\n";
        $migration = $this->demoMigration(dirname($this->smallPlan($csv, "{kind: kind, name: name, country: \"'GB'\"}", 'party')));
        $round = $this->load($migration);
        $this->actingAs($this->user(Role::Lead));
        $load = Load::query()->firstOrFail();
        foreach ([1, 2] as $row) {
            $cause = $this->lines()->where('row_no', $row)->value('cause_id');
            $this->repaired("/m/$migration->id/rejects/loads/$load->id", 'stay', ['cause' => $cause, 'reason' => 'sold'])
                ->assertSessionHas('told', '1 row waived.');
        }
        $last = Repair::query()->latest('id')->firstOrFail();
        $this->post("/m/$migration->id/rejects/repairs/$last->id/undo")->assertSessionHas('told', '1 row rejected again.');
        self::assertSame(
            [1 => 'waived', 2 => 'rejected', 3 => 'loaded'],
            $this->lines()->where('lane_id', $round->laneId())->orderBy('row_no')->pluck('outcome', 'row_no')->all(),
        );
    }
}
