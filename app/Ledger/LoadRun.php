<?php

namespace App\Ledger;

use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use Baggage\Core\Mapping\LoadDefinition;

/** One load in one pass. */
final readonly class LoadRun
{
    /**
     * @param  int  $entity  id of what it fills
     * @param  int  $source  id of where its rows come from
     */
    public function __construct(
        public Pass $pass,
        public PassLoad $progress,
        public LoadDefinition $load,
        public int $entity,
        public int $source,
    ) {
    }

    public function round(): int
    {
        return $this->pass->round_id;
    }

    public function isRetry(): bool
    {
        return $this->pass->kind === PassKind::Retry;
    }
}
