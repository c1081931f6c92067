<?php

namespace App\Ledger;

use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use Baggage\Core\Mapping\LoadDefinition;

/** One load in one pass. */
final readonly class LoadRun
{
    /** A model looks its attributes up anew each time, which rows by the million feel. */
    private int $lane;

    private int $number;

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
        [$this->lane, $this->number] = [$pass->lane_id, $pass->id];
    }

    /** @param  array<string, int>  $entities  name → id */
    public static function of(Pass $pass, PassLoad $progress, LoadDefinition $load, array $entities, Spaces $spaces): self
    {
        $name = $load->entity->name;

        return new self($pass, $progress, $load, $entities[$name], $spaces->id($name, $load->rowSpace()));
    }

    public function lane(): int
    {
        return $this->lane;
    }

    /** Number of the pass. */
    public function number(): int
    {
        return $this->number;
    }

    /** Whether its rows were worked on before: some of them are taken up again, one after another. */
    public function isAgain(): bool
    {
        return $this->pass->kind !== PassKind::First;
    }

    public function isDelta(): bool
    {
        return $this->pass->kind === PassKind::Delta;
    }
}
