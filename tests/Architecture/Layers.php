<?php

namespace Tests\Architecture;

use PHPat\Selector\Selector;
use PHPat\Test\Builder\Rule;
use PHPat\Test\PHPat;

/**
 * Run by PHPStan through phpat: folders point one way. A folder may use those that stand before it, here and in
 * docs/architecture.md; a new arrow is a line moved here.
 */
final class Layers
{
    public const CORE = [
        'Reading', 'Profiling', 'Targets', 'Crosswalks', 'Expressions', 'Matching', 'Feeds', 'Rows', 'Mapping', 'Ordering', 'Loading',
        'Reconciling', 'Plan',
    ];

    public const APP = [
        'Support', 'Models', 'Policies', 'Queueing', 'Looking', 'Reading', 'Staging', 'Profiling', 'Catalogue',
        'Decisions', 'Feeds', 'Freezing', 'Targets', 'Ledger', 'Mapping', 'Deltas', 'DryRuns', 'Loading', 'Rejects', 'Reckoning',
        'Reconciling', 'Plans', 'Specification', 'Overview', 'Mending', 'View', 'Http', 'Console', 'Providers',
    ];

    public function test_core_stands_alone(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Baggage\Core'))
            ->shouldNotDependOn()
            ->classes(
                Selector::inNamespace('Illuminate'),
                Selector::inNamespace('App'),
                Selector::classname('PDO'),
                Selector::classname('PDOException'),
            )
            ->because('the rules of the job are pure PHP');
    }

    /** @return iterable<string, Rule> */
    public function test_core_points_one_way(): iterable
    {
        return $this->oneWay('Baggage\Core', self::CORE);
    }

    /** @return iterable<string, Rule> */
    public function test_app_points_one_way(): iterable
    {
        return $this->oneWay('App', self::APP);
    }

    public function test_screens_know_no_sql(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('App\Http'), Selector::inNamespace('App\View'))
            ->shouldNotDependOn()
            ->classes(
                Selector::classname('Illuminate\Support\Facades\DB'),
                Selector::inNamespace('Illuminate\Database\Query'),
                Selector::classname('PDO'),
                Selector::classname('PDOException'),
            )
            ->because('each table has one class that reads it, below the screens');
    }

    public function test_the_demo_is_known_to_its_commands_alone(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('App'))
            ->excluding(Selector::inNamespace('App\Console'))
            ->shouldNotDependOn()
            ->classes(Selector::inNamespace('Demo'), Selector::inNamespace('Standins'))
            ->because('the demo is a client among others');
    }

    /**
     * @param  list<string>  $folders
     * @return iterable<string, Rule>
     */
    private function oneWay(string $root, array $folders): iterable
    {
        foreach ($folders as $i => $folder) {
            $later = array_slice($folders, $i + 1);
            if ($later !== []) {
                yield $folder => PHPat::rule()
                    ->classes(Selector::inNamespace("$root\\$folder"))
                    ->shouldNotDependOn()
                    ->classes(...array_map(fn (string $f) => Selector::inNamespace("$root\\$f"), $later))
                    ->because("$folder stands before them");
            }
        }
    }
}
