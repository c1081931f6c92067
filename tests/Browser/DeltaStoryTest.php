<?php

namespace Tests\Browser;

use App\Models\Extract;
use App\Models\Migration;
use App\Models\PassState;
use App\Models\Role;
use App\Models\Round;
use App\Models\Source;
use App\Models\TakeState;
use App\Reconciling\Report;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverSelect;
use Tests\TestCase;

/** The second delivery: uploaded, said beforehand, sent, counted, and taken back, each with the figures of its answer key. */
final class DeltaStoryTest extends TestCase
{
    use OwnBrowser;

    private const FILES = [
        'BB' => ['people.txt', 'craft.txt', 'agreement.txt', 'berthbook.sqlite'],
        'OF' => ['contacts.csv', 'office.xlsx'],
        'YL' => ['jobs.jsonl', 'notes.txt'],
        'AC' => ['invoice.txt', 'line.txt', 'payment.txt'],
    ];

    private Migration $migration;

    private Round $round;

    /** @var array<string, array{added: int, gone: int, records_changed: int, removed: int, older: int, outcomes: array<string, int>}> */
    private array $key;

    protected function setUp(): void
    {
        parent::setUp();
        [$this->migration, $this->round] = $this->loadedDemo(self::smallDemo(), all: true);
        $this->key = json_decode((string) file_get_contents(self::smallDemo().'/second/answer-key.json'), true)['loads'];
        $this->user(Role::Lead);
        $this->enterAsLead('Orrin Sound Harbours');
    }

    private function planted(string $what): string
    {
        return number_format((int) array_sum(array_column($this->key, $what)));
    }

    public function test_a_second_delivery_from_its_files_to_a_balanced_proof_and_back(): void
    {
        [$b, $m] = [$this->browser, "/m/{$this->migration->id}"];
        $before = $this->figures();
        array_map($this->upload(...), array_keys(self::FILES));
        $reading = [TakeState::Reading, TakeState::Waiting];
        $b->await(fn () => ! Extract::query()->whereHas('takes', fn ($q) => $q->whereIn('state', $reading))->exists(), 'all takes', 60);
        self::assertSame(0, Extract::query()->whereHas('take', fn ($q) => $q->where('state', '<>', TakeState::Frozen))->count());

        $b->go("$m/runs");
        $b->see('Newer takes were read');
        $b->press('Dry run');
        $b->see($this->planted('added').' rows came, '.$this->planted('gone').' are delivered no more', 60);
        $b->see($this->planted('records_changed').' changed, '.$this->planted('removed').' removed unless something refers to them');
        $this->assertClean();
        $b->go("$m/dry-runs/1?what=changed#rows");
        $b->see('Berth dues, corrected');

        $this->sendAndCount($m);

        $b->go("$m/runs");
        $b->driver->findElement(WebDriverBy::xpath('//summary[contains(., "Take back pass 2")]'))->click();
        $b->press('Take it back');
        $b->await(fn () => $this->round->passes()->where('state', PassState::Finished)->count() === 3, 'the back-out', 60);
        $b->go("$m/reconciliation");
        $b->see('Every row is accounted for and every count proof holds.');
        self::assertSame($before, $this->figures());
    }

    private function sendAndCount(string $m): void
    {
        $b = $this->browser;
        $b->go("$m/runs");
        $b->click('[name=removes]');
        $b->press('Run a delta');
        $b->await(fn () => $this->round->passes()->where('state', PassState::Finished)->count() === 2, 'the delta', 60);
        $b->go("$m/runs");
        $b->see('It did what the dry run said.');
        $this->assertClean();
        foreach ((new Report)->of($this->round->refresh())['loads'] as $load) {
            self::assertEquals(array_filter($this->key[$load['load']]['outcomes']), array_filter($load['outcomes']), $load['load']);
        }
        $b->go("$m/reconciliation");
        $b->see('Every row is accounted for and every count proof holds.');
        $this->assertClean();
        // Somebody's address turned to nonsense at source.
        $b->go("$m/rows/party?older=1");
        $b->see('stands with older values');
        $b->see('.post.example');
    }

    private function upload(string $system): void
    {
        $b = $this->browser;
        $b->go("/m/{$this->migration->id}/sources");
        $source = Source::query()->where('code', $system)->firstOrFail();
        (new WebDriverSelect($b->find('#source')))->selectByValue((string) $source->id);
        $files = array_map(fn (string $file) => self::smallDemo()."/second/$system/$file", self::FILES[$system]);
        $b->find('#file')->sendKeys(implode("\n", $files));
        $b->press('Upload and preview');
        $b->press('Freeze all');
        $b->see('being frozen');
    }

    /** @return array<string, array<string, int>> */
    private function figures(): array
    {
        return array_column(array_map(
            fn (array $l) => ['load' => $l['load'], 'of' => $l['outcomes']],
            (new Report)->of($this->round->refresh())['loads'],
        ), 'of', 'load');
    }
}
