<?php

namespace App\View;

use App\Overview\ListedLoad;
use App\View\Drawing\Box;

/** An entity in the order chart, with the loads that fill it. */
final readonly class OrderPlate
{
    /**
     * @param  list<ListedLoad>  $loads
     * @param  list<string>  $loops  fields that refer to records of the same entity
     */
    public function __construct(public Box $box, public array $loads, public array $loops)
    {
    }
}
