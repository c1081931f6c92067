<?php

namespace Tests\Architecture;

use PHPat\Selector\Selector;
use PHPat\Test\Builder\Rule;
use PHPat\Test\PHPat;

/** Run by PHPStan through phpat: core knows no framework, no application and no SQL. */
final class Layers
{
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
}
