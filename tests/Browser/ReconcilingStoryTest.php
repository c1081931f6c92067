<?php

namespace Tests\Browser;

use App\Ledger\DueBook;
use App\Models\Migration;
use App\Models\PassState;
use App\Models\Role;
use App\Models\Round;
use App\Models\Work;
use App\Models\WorkState;
use Facebook\WebDriver\WebDriverKeys;
use Tests\TestCase;

/** A difference of a control total: found, opened down to its row, explained, repaired, and even. */
final class ReconcilingStoryTest extends TestCase
{
    use OwnBrowser;

    private Migration $migration;

    private Round $round;

    private string $payment;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration(self::smallDemo(), all: true);
        $rules = $this->migration->loads()->where('name', 'Payments')->firstOrFail()->rules();
        // Two payments lose a cent by a rule, and nobody sees it: every row is loaded.
        $two = implode("', '", $this->two());
        $rules->where('field', 'amount')->update(['expression' => "decimal(amount, ',') - (pay_no in ['$two'] ? 0.01 : 0)"]);
        $this->round = $this->load($this->migration);
        $this->user(Role::Lead);
        $this->enterAsLead('Orrin Sound Harbours');
    }

    /** @return list<string> numbers of two payments */
    private function two(): array
    {
        $lines = array_slice(file(self::smallDemo().'/AC/payment.txt') ?: [], 3, 2);

        return array_map(fn (string $line) => explode('|', $line)[0], $lines);
    }

    public function test_a_difference_is_found_opened_explained_repaired_and_even(): void
    {
        [$b, $m] = [$this->browser, "/m/{$this->migration->id}"];
        $b->go("$m/totals");
        $b->see('Nothing was counted in this round yet.');
        $this->countTotals($m);
        $b->see('of which 1 does not hold');
        $b->see('−0.02');
        $this->assertClean();
        $b->press('Paid');
        $b->see('2 rows say something else than their record, the largest difference first');
        $b->see('−0.01');
        $this->assertClean();
        $b->press('Payments, row');
        $b->see('The record as it was sent, and as it is');
        $b->see('Parents it needs');
        $b->see('- (pay_no in');
        $this->assertClean();

        $this->repair($m);
        $b->go("$m/totals");
        $this->countTotals($m);
        $b->see('every one of them holds');
        $this->assertClean();

        $b->go("$m/comparison");
        $b->press('Compare them');
        $this->done();
        $b->go("$m/comparison");
        $b->see('every field says what was sent');
        $this->assertClean();
    }

    private function repair(string $m): void
    {
        $b = $this->browser;
        $b->go("$m/mapping/payment");
        $b->click('#rule-amount textarea');
        $b->driver->executeScript("document.querySelector('#rule-amount textarea').value = \"decimal(amount, ',')\"");
        $b->keys(WebDriverKeys::ENTER);
        $b->see('Kept.');
        // What the rule may have made of records is worked out by a worker.
        $stale = fn () => array_sum(array_merge([], ...array_values((new DueBook($this->round->laneId()))->stale())));
        $b->await(fn () => $stale() > 0, 'what is behind the rule');
        $b->go("$m/runs");
        $b->click('[name=removes]');
        $b->press('Run a delta');
        $b->await(fn () => $this->round->passes()->where('state', PassState::Finished)->count() === 2, 'the delta', 60);
    }

    private function countTotals(string $m): void
    {
        $this->browser->press('Count 10 totals');
        $this->done();
        $this->browser->go("$m/totals");
    }

    private function done(): void
    {
        $this->browser->await(fn () => Work::query()->exists()
            && ! Work::query()->whereIn('state', [WorkState::Queued, WorkState::Running])->exists(), 'what was asked for', 60);
    }
}
