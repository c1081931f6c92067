<?php

namespace App\Deltas;

/** What a delta pass is asked to do. */
final readonly class Delta
{
    /**
     * @param  bool  $isFull  whether all rows are mapped anew, whatever seems to be the same
     * @param  bool  $keepsTakes  whether the round goes on with the takes it works on, and follows rules and decisions alone
     */
    public function __construct(public bool $isFull = false, public bool $keepsTakes = false)
    {
    }
}
