<?php

namespace App\Deltas;

use App\Models\RoundLoad;
use App\Models\Take;

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

    /** @param  array<string, mixed>  $given  as toArray() made it */
    public static function fromArray(array $given): self
    {
        return new self((bool) ($given['full'] ?? false), (bool) ($given['keep_takes'] ?? false));
    }

    /** @return array{full: bool, keep_takes: bool} */
    public function toArray(): array
    {
        return ['full' => $this->isFull, 'keep_takes' => $this->keepsTakes];
    }

    /** A load of a round as it would be when the delta has begun; not to be kept. */
    public function taking(RoundLoad $of): RoundLoad
    {
        $take = Take::query()->findOrFail($this->takeOf($of));

        return (clone $of)->setRawAttributes(['take_id' => $take->id, 'feed_rows' => (int) $take->rows] + $of->getAttributes())
            ->setRelation('take', $take);
    }

    /** The take of a load that it would take the round to. */
    public function takeOf(RoundLoad $of): int
    {
        return $this->keepsTakes ? $of->take_id : (int) ($of->ofLoad->extract->take_id ?? $of->take_id);
    }
}
