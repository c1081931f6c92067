<?php

namespace App\Reckoning;

use App\Models\Reckoning;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Support\Amount;
use Baggage\Core\Loading\TargetUnavailable;

/** Lists the rows of one group of a control total for whoever asked. */
final class ListGroup extends WorkJob
{
    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $given = $work->given;
        $reckoning = Reckoning::query()->where('round_id', $given['round'])->find($given['reckoning'])
            ?? throw new \DomainException('It was counted again meanwhile: look at the page as it is now.');
        $progress = new Progress($work);
        try {
            $rows = Reckonings::list($reckoning, (int) $given['total'], (string) $given['group'], $progress->reached(...));
        } catch (TargetUnavailable $e) {
            throw new \DomainException($e->getMessage(), 0, $e);
        }

        return ['told' => Amount::of($rows, 'row').' listed.', 'done' => $progress->done, 'total' => $progress->done];
    }

    protected function brokeOff(Work $work): string
    {
        return 'Listing the rows ended';
    }
}
