<?php

namespace App\Targets;

use App\Models\Target as TargetModel;
use App\Targets\Sql\SqlRecords;
use App\Targets\Sql\SqlTarget;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;

/** The adapters of a target, chosen in this one place. */
final readonly class Ports
{
    private function __construct(public Target $target, public TargetRecords $records)
    {
    }

    public static function of(TargetModel $target): self
    {
        $link = new TargetLink($target);

        return new self(new SqlTarget($link), new SqlRecords($link));
    }
}
