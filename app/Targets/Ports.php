<?php

namespace App\Targets;

use App\Models\Target as TargetModel;
use App\Targets\Sql\Rights;
use App\Targets\Sql\SqlRecords;
use App\Targets\Sql\SqlTarget;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;

/** The adapters of a target, chosen in this one place. */
final readonly class Ports
{
    private function __construct(public Target $target, public TargetRecords $records, private TargetLink $link)
    {
    }

    public static function of(TargetModel $target): self
    {
        $link = new TargetLink($target);

        return new self(new SqlTarget($link), new SqlRecords($link), $link);
    }

    /**
     * The entities as the target has them now.
     *
     * @throws TargetUnavailable
     */
    public function schema(): Schema
    {
        return (new SchemaReader)->read($this->link);
    }

    /**
     * @param  list<Entity>  $entities  that loads fill
     * @return list<string> rights the account lacks, in words
     *
     * @throws TargetUnavailable
     */
    public function missingRights(array $entities): array
    {
        return (new Rights($this->link))->missing($entities);
    }
}
