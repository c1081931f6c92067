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
     * @param  int  $space  id of the space its legacy keys are of
     */
    public function __construct(
        public Pass $pass,
        public PassLoad $progress,
        public LoadDefinition $load,
        public int $entity,
        public int $space,
    ) {
    }

    public function lane(): int
    {
        return $this->pass->lane_id;
    }

    public function isRetry(): bool
    {
        return $this->pass->kind === PassKind::Retry;
    }
}
