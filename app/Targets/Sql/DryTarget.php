<?php

namespace App\Targets\Sql;

use App\Targets\DryRecords;
use App\Targets\TargetLink;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\Writing;
use Baggage\Core\Targets\Entity;

/** A MariaDB target that is asked what it would say, and is not written to. */
final class DryTarget implements Target
{
    /** @var array<string, Foresight> by entity */
    private array $foresight = [];

    public function __construct(
        private readonly TargetLink $link,
        private readonly TargetRecords $records,
        private readonly DryRecords $dry,
    ) {
    }

    public function begin(Entity $entity, Stretch $stretch, Mark $mark): Writing
    {
        $this->dry->drop();

        return new DryWriting($this->of($entity), $this->records, $this->dry, $entity, $stretch);
    }

    public function recall(Stretch $stretch): ?Receipt
    {
        return null;
    }

    public function marks(): array
    {
        return [];
    }

    public function setReference(Entity $entity, string $field, array $pairs): void
    {
        // Nothing is written.
    }

    public function unmark(string $installation, int $lane): void
    {
        // Nothing was left.
    }

    public function forget(string $installation, int $pass): void
    {
        // Nothing was left.
    }

    /** @return list<string> what only writing shows, of the entities it was asked about */
    public function unforeseen(): array
    {
        $all = array_merge([], ...array_values(array_map(fn (Foresight $f) => $f->unforeseen(), $this->foresight)));
        $first = $this->foresight === [] ? null : $this->foresight[array_key_first($this->foresight)];

        return $first === null || $first->seesTriggers() ? $all : [...$all, 'triggers: the account may not see whether there are any'];
    }

    private function of(Entity $entity): Foresight
    {
        return $this->foresight[$entity->name] ??= new Foresight($this->link, $entity);
    }
}
