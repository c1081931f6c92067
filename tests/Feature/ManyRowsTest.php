<?php

namespace Tests\Feature;

use App\Ledger\CauseReader;
use App\Loading\Rounds;
use App\Loading\WorkOutDue;
use App\Mapping\CheckLoad;
use App\Models\CheckState;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Reconciling\CountBook;
use App\Rejects\Repairs;
use App\View\Page;
use Illuminate\Support\Facades\DB;
use Tests\Support\Multiplied;
use Tests\Support\Plans;
use Tests\TestCase;

/**
 * One database of 200,000 rows, filled this minute: no page asks more because of it, and nothing that is asked of tables of rows reads
 * one of them from end to end to find a part of it.
 */
final class ManyRowsTest extends TestCase
{
    private const ROWS = 200_000;

    /** Queries of a page besides session and user; an opened cause asks for its values, rows, what they have in common and more. */
    private const MOST = 21;

    private const MOST_OF_A_CAUSE = 29;

    private Migration $migration;

    private Round $round;

    public function test_pages_ask_the_same_of_many_rows_and_by_an_index(): void
    {
        DB::statement('SET GLOBAL innodb_stats_auto_recalc = OFF');
        $this->migration = $this->demoMigration(self::smallDemo());
        $this->actingAs($this->user(Role::Lead));
        $asked = Plans::during(fn () => $this->doEverything());
        $few = $this->visit();
        Multiplied::round($this->round, (int) ceil(self::ROWS / DB::table('outcomes')->count()), 500);
        self::assertGreaterThanOrEqual(self::ROWS, DB::table('outcomes')->count());
        $many = [];
        $asked += Plans::during(function () use (&$many) {
            $many = $this->visit();
            CountBook::ask($this->round);
        });
        self::assertSame($few, $many, 'queries of each page, of few rows and of many');
        self::assertSame([], array_filter(
            $many,
            fn (int $n, string $page) => $n > (str_contains($page, 'cause=') ? self::MOST_OF_A_CAUSE : self::MOST),
            ARRAY_FILTER_USE_BOTH,
        ));
        self::assertGreaterThan(90, count($asked));
        self::assertSame([], Plans::poor($asked));
    }

    /** Everything the job asks of its tables once, on few rows. */
    private function doEverything(): void
    {
        $this->round = $this->load($this->migration);
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $check = LoadCheck::query()->create(['load_id' => $load->id, 'hash' => '', 'state' => CheckState::Queued]);
        CheckLoad::dispatch($check->id);
        $repairs = app(Repairs::class);
        $causes = DB::table('cause_tallies as t')
            ->join('causes as c', 'c.id', '=', 't.cause_id')
            ->where('t.outcome', 'rejected')
            ->where('c.load_id', $load->id)
            ->orderBy('c.id')
            ->pluck('c.id');
        self::assertGreaterThan(3, $causes->count());
        $repairs->waive($this->round, $load, (int) $causes[0], 'for good');
        $repairs->correctValue($this->round, $load, (int) $causes[1], 'CRAFT_NAME', 'Other', 'as they said');
        $repairs->waive($this->round, $load, (int) $causes[2], 'for now');
        $repairs->takeBack($this->round, $load, (int) $causes[2]);
        $repairs->ask($this->round, $load, (int) $causes[3]);
        $load->rules()->where('field', 'name')->update(['expression' => 'upper(craft_name)']);
        WorkOutDue::dispatch($this->migration->id);
        app(Rounds::class)->start($this->round, PassKind::Retry);
        CountBook::ask($this->round);
        self::assertGreaterThan(0, (new CauseReader($this->round->laneId()))->rejectedByField($load->id));
    }

    /** @return array<string, int> page → queries, without those of session and user */
    private function visit(): array
    {
        $asked = [];
        foreach ($this->pages() as $page) {
            // What was written before may have made the overview old; the page after finds it new.
            $this->get($page)->assertSuccessful();
            $before = Plans::questions();
            $this->get($page);
            $asked[$page] = Plans::questions() - $before - 2;
        }

        return $asked;
    }

    /** @return list<string> */
    private function pages(): array
    {
        $m = "/m/{$this->migration->id}";
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $cause = (object) DB::table('causes as c')
            ->join('cause_tallies as t', 't.cause_id', '=', 'c.id')
            ->where('t.outcome', 'rejected')
            ->where('t.n', '>', 0)
            ->where('c.load_id', $load->id)
            // It has some rows: of one or two nothing is said that they have in common.
            ->where('c.code', 'not_a_date')
            ->orderBy('c.id')
            ->first(['c.id', 'c.stage', 'c.code', 'c.field']);
        $alike = urlencode("$load->id~$cause->stage~$cause->code~$cause->field");
        $link = DB::table('links')->first(['load_id', 'field']);
        $pages = ['/'];
        foreach (array_keys(Page::STOPS) as $stop) {
            array_push($pages, "$m/$stop", "$m/$stop/vessel");
        }
        $extract = "$m/sources/extracts/$load->extract_id";

        return [
            ...$pages,
            "$m/rejects?cause=$alike", "$m/rejects?show=held", "$m/rejects?show=left", "$m/rejects?show=references",
            "$m/rejects?show=corrections", "$m/rejects?causes-sort=-own&causes-stage=mapping", "$m/crosswalks?code=keys",
            "$m/crosswalks?key=A", "$m/rows", "$m/rows/vessel?outcome=rejected", "$m/rows/vessel?load=$load->id&from=50",
            "$m/rows/vessel?load=$load->id&alike=$alike", "$m/rows?alike=$alike&which=below",
            "$m/rows/vessel?load=$load->id&alike=$alike&which=due", "$m/rows?load=$load->id&cause=$cause->id",
            "$m/rows?load={$link?->load_id}&waits={$link?->field}", "$m/rows/$load->id/5", "$m/gaps", "$m/trace", "$m/trace?q=none",
            $extract, "$extract?show=findings", "$extract?show=keys", "$extract?show=rows", "$extract?show=takes",
            "$extract/columns/4", "$m/sources/references", "$m/target/tables", "$m/connections",
            "$m/mapping/loads/$load->id/history", "$m/mapping/loads/$load->id/text", "$m/mapping/loads/$load->id/record/1",
        ];
    }
}
