<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\OthersPolicy;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\SentHash;
use Baggage\Core\Rows\Stage;

/** Looks at records before they are changed again, where what others did to them is not simply written over. */
final readonly class OthersGuard
{
    /** @param  list<string>  $deferred  fields whose parents come later, which say nothing of others */
    public function __construct(
        private LoadDefinition $load,
        private array $deferred,
        private TargetRecords $records,
        private SentRecords $sent,
    ) {
    }

    /** Whether anything is to be looked at: a load that changes records of others writes over again what it wrote. */
    public function isNeeded(): bool
    {
        return $this->load->others !== OthersPolicy::Overwrite && ! $this->load->reads();
    }

    /**
     * Rows whose record others changed keep those fields as they are, or are rejected.
     *
     * @param  list<Journey>  $journeys  about to change the record they stand on
     *
     * @throws TargetUnavailable
     */
    public function look(array $journeys): void
    {
        $now = $journeys === [] ? [] : $this->records->byKeys(
            $this->load->entity,
            array_values(array_unique(array_map(fn (Journey $j) => (string) $j->targetKey, $journeys))),
        );
        $suspects = array_filter($journeys, fn (Journey $j) => isset($now[$j->targetKey]) && $this->differs($j, $now[$j->targetKey]));
        $sent = $suspects === [] ? [] : $this->sent->of(array_values(array_map(fn (Journey $j) => $j->row, $suspects)));
        foreach ($journeys as $journey) {
            $journey->others = [];
        }
        foreach ($suspects as $journey) {
            $others = $this->fields($journey, $sent[$journey->row] ?? [], $now[$journey->targetKey]);
            if ($others !== [] && $this->load->others === OthersPolicy::Review) {
                $journey->reject(self::cause($others, $now[$journey->targetKey]));
            } else {
                $journey->others = $others;
            }
        }
    }

    /**
     * Rows whose record is to be written again, and is not there any more.
     *
     * @param  list<Journey>  $journeys
     * @return list<Journey>
     *
     * @throws TargetUnavailable
     */
    public function gone(array $journeys): array
    {
        $asked = $this->load->reads() ? [] : array_filter($journeys, fn (Journey $j) => $j->isOpen()
            && $j->standing !== null && $j->standing->isWrittenAgain && $j->standing->outcome !== Outcome::Merged);
        $keys = array_values(array_unique(array_map(fn (Journey $j) => (string) $j->standing?->targetKey, $asked)));
        $now = $keys === [] ? [] : $this->records->byKeys($this->load->entity, $keys, []);

        return array_values(array_filter($asked, fn (Journey $j) => ! isset($now[(string) $j->standing?->targetKey])));
    }

    /** @param  array<string, string|null>  $now */
    private function differs(Journey $journey, array $now): bool
    {
        $sent = array_intersect_key($now, $this->load->rules);

        return $this->deferred !== [] || $journey->standing?->sentHash !== SentHash::ofRecord($sent);
    }

    /**
     * @param  array<string, string|null>  $sent
     * @param  array<string, string|null>  $now
     * @return list<string>
     */
    private function fields(Journey $journey, array $sent, array $now): array
    {
        if ($journey->standing?->outcome !== Outcome::Loaded) {
            // What it left blank in a record that was there was never its own.
            $sent = array_filter($sent, fn (?string $value) => $value !== null);
        }

        return OthersChanges::fields($this->load->entity, $this->deferred, $sent, $now, $journey->values);
    }

    /**
     * @param  non-empty-list<string>  $fields
     * @param  array<string, string|null>  $now
     */
    private static function cause(array $fields, array $now): Cause
    {
        return new Cause(
            Stage::Matching,
            'changed_by_others',
            implode(', ', $fields),
            implode(', ', array_map(fn (string $field) => (string) $now[$field], $fields)),
            'Somebody changed this in the target since the record was sent, and the row would change the record again',
        );
    }
}
