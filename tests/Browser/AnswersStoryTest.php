<?php

namespace Tests\Browser;

use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Round;
use App\Rejects\Repairs;
use Facebook\WebDriver\WebDriverKeys;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** Rejects go to the client and come back: a file out, edited, in, a conflict decided, loaded; and the client's page by keys alone. */
final class AnswersStoryTest extends TestCase
{
    use OwnBrowser;

    private Migration $migration;

    private Round $round;

    private Load $load;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration(self::smallDemo());
        $this->round = $this->load($this->migration);
        $this->load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $this->m = "/m/{$this->migration->id}";
        $this->browser = new Browser;
    }

    private function login(Role $role): void
    {
        $this->user($role);
        $this->browser->go('/login');
        $this->browser->type('#email', str_replace(' ', '', $role->value).'@example.test');
        $this->browser->type('#password', "secret-$role->name");
        $this->browser->keys(WebDriverKeys::ENTER);
        $this->browser->see('Migrations');
    }

    /** @return list<int> rows that failed for a code */
    private function rejected(string $code): array
    {
        return array_map(intval(...), $this->lines('o')->join('causes as c', 'c.id', '=', 'o.cause_id')->where('o.load_id', $this->load->id)
            ->where('o.outcome', 'rejected')->where('c.code', $code)->orderBy('o.row_no')->pluck('o.row_no')->all());
    }

    /** @param  array<int, string>  $built  row → what BUILT becomes */
    private function edited(ClientFile $file, array $built): string
    {
        $deeds = [];
        $rows = json_decode((new Process(['/usr/bin/python3', __DIR__.'/../Support/answer.py', 'read', $file->path()]))->mustRun()
            ->getOutput(), true)['Vessels']['rows'];
        $at = array_flip($rows[0]);
        foreach (array_slice($rows, 1) as $row) {
            if (isset($built[(int) $row[$at['Row']]])) {
                $deeds[] = json_encode(['set', 'Vessels', $row[$at['Reference']], 'BUILT', $built[(int) $row[$at['Row']]], 'text']);
            }
        }
        $to = self::work('story').'.xlsx';
        (new Process(['/usr/bin/python3', __DIR__.'/../Support/answer.py', 'edit', $file->path(), $to, '["first"]', ...$deeds]))->mustRun();

        return $to;
    }

    public function test_a_file_goes_out_and_comes_back(): void
    {
        $b = $this->browser;
        $this->login(Role::Lead);
        $b->go("$this->m/rejects?show=files");
        $b->driver->executeScript("document.querySelector('#file-of').value = '{$this->load->id}'");
        $b->type('#file-to', 'Ines Moor');
        $b->press('Write .xlsx');
        $b->see('Fetch the .xlsx');
        $this->assertClean();
        $file = ClientFile::query()->firstOrFail();
        [$one, $two] = $this->rejected('not_a_date');
        $this->app->make(Repairs::class)->correctCell($this->round, $this->load, $two, 'BUILT', '05/05/2005', 'by telephone');

        $b->go("$this->m/rejects?show=files");
        $b->find('#answer-file')->sendKeys($this->edited($file, [$one => '01/01/2001', $two => '02/02/2002']));
        $b->press('Take it in');
        $b->see('1 cell changed, 1 cell in conflict');
        $b->see('corrected here otherwise');
        $this->assertClean();
        $b->press('Try it');
        $b->see('Take them in', 30);
        $b->press('Take them in');
        $b->see('1 cell corrected as answered.');
        $b->click("input[aria-label='Row $two, BUILT']");
        $b->press('Try those ticked');
        $b->see('Take them in', 30);
        $this->assertClean();
        $b->press('Take them in');
        $b->see('1 cell corrected as answered.');
        $this->load($this->migration->refresh());
        $is = $this->lines()->where('load_id', $this->load->id)->whereIn('row_no', [$one, $two])->pluck('target_key', 'row_no')->all();
        foreach ([$one => '2001-01-01', $two => '2002-02-02'] as $row => $date) {
            self::assertSame([[$date]], $this->targetRows("SELECT built FROM vessel WHERE id = $is[$row]"));
        }
    }

    /** Goes on to the next field until it is one like this. */
    private function tabTo(string $css): void
    {
        for ($i = 0; $i < 300; $i++) {
            $this->browser->keys(WebDriverKeys::TAB);
            if ($this->browser->driver->executeScript('return document.activeElement.matches(arguments[0])', [$css])) {
                return;
            }
        }
        self::fail("No way by keys to $css.");
    }

    public function test_the_clients_page_by_keys_alone(): void
    {
        $group = DB::table('causes')->where('load_id', $this->load->id)->where('code', 'not_a_date')->firstOrFail();
        $reviewer = $this->user(Role::Reviewer);
        DB::table('cause_tasks')->insert(['load_id' => $this->load->id, 'stage' => $group->stage, 'code' => $group->code,
            'field' => $group->field, 'user_id' => $reviewer->id, 'until' => '2031-01-31', 'updated_at' => now()]);
        $b = $this->browser;
        $this->login(Role::Reviewer);
        $this->tabTo('td a');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('what waits for an answer of yours');
        $b->see('Wanted until 2031-01-31');
        $this->assertClean();
        $this->tabTo('input[name^="answers"]');
        $b->keys('28/02/2003');
        $this->tabTo('button.main');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('One answer is sent. Thank you.');
        $this->assertClean();
        $rows = $this->rejected('not_a_date');
        self::assertSame(
            [[count($rows), '28/02/2003']],
            DB::table('answer_changes')->groupBy('becomes')->selectRaw('COUNT(*) AS n, becomes')->get()
                ->map(fn ($r) => [(int) $r->n, $r->becomes])->all(),
        );
    }
}
