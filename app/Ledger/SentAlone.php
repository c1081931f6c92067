<?php

namespace App\Ledger;

use App\Models\PassLoad;
use Baggage\Core\Loading\SentRecords;
use Baggage\Core\Rows\Journey;

/** Records of one load as its rows sent them, of rows that stand on theirs alone. */
final readonly class SentAlone implements SentRecords
{
    /** @param  int  $entity  id of what the load fills */
    public function __construct(
        private SentRows $sent,
        private LedgerReader $reader,
        private PassLoad $progress,
        private int $entity,
    ) {
    }

    public function of(array $rows): array
    {
        $passes = $rows === [] ? [] : $this->reader->alone($this->progress->load_id, $this->entity, $rows);

        return array_map(fn (Journey $j) => $j->values, $passes === [] ? [] : $this->sent->journeys($this->progress, $passes));
    }
}
