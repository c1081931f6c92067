<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Targets\Entity;

/** Takes one batch of feed rows through the life of a row (DESIGN section 2). */
final class BatchProcessor
{
    public function __construct(
        private readonly Entity $entity,
        private readonly WritePolicy $policy,
        private readonly Mapper $mapper,
        private readonly ParentResolver $parents,
        private readonly Matcher $matcher,
        private readonly TargetWriter $target,
        private readonly ?MatchRule $matchRule,
    ) {
    }

    /**
     * @param  iterable<int, list<string|null>>  $rows  row number → cells
     * @param  \Closure(list<Journey>): string  $receipt
     * @return list<Journey> all with an outcome
     */
    public function process(iterable $rows, BatchId $batch, \Closure $receipt): array
    {
        $journeys = [];
        foreach ($rows as $number => $cells) {
            $journeys[] = $this->mapper->map($number, $cells);
        }
        $this->parents->resolve($journeys);
        $this->matcher->match($journeys);
        $twins = $this->setTwinsAside($journeys);
        $this->rejectTakenWithinBatch($journeys);
        $this->target->write($this->entity, $journeys, $this->policy->updates(), $batch, function () use (
            $journeys,
            $twins,
            $receipt,
        ) {
            $this->settleTwins($twins);

            return $receipt($journeys);
        });

        return $journeys;
    }

    /**
     * Rows of the batch with the match key of an earlier row of the batch are that row's record.
     *
     * @param  list<Journey>  $journeys
     * @return list<array{Journey, Journey}> later row, earlier row
     */
    private function setTwinsAside(array $journeys): array
    {
        if ($this->matchRule === null) {
            return [];
        }
        $first = $twins = [];
        foreach ($journeys as $journey) {
            if (! $journey->isOpen() || $journey->matchKey === null) {
                continue;
            }
            if (isset($first[$journey->matchKey])) {
                $journey->outcome = Outcome::Merged;
                $twins[] = [$journey, $first[$journey->matchKey]];
            } else {
                $first[$journey->matchKey] = $journey;
            }
        }

        return $twins;
    }

    /** @param  list<array{Journey, Journey}>  $twins */
    private function settleTwins(array $twins): void
    {
        foreach ($twins as [$later, $earlier]) {
            if ($earlier->targetKey !== null) {
                $later->settle(Outcome::Merged, $earlier->targetKey);
            } else {
                $later->reject(
                    new Cause(
                        Stage::Matching,
                        'survivor_rejected',
                        null,
                        null,
                        "It is a duplicate of row $earlier->row, which was rejected",
                    ),
                );
            }
        }
    }

    /** @param  list<Journey>  $journeys */
    private function rejectTakenWithinBatch(array $journeys): void
    {
        foreach ($this->entity->uniques as $fields) {
            $first = [];
            foreach ($journeys as $journey) {
                if (! $journey->isOpen()) {
                    continue;
                }
                $parts = [];
                foreach ($fields as $field) {
                    $value = $journey->values[$field] ?? null;
                    if ($value === null) {
                        continue 2;
                    }
                    $parts[] = mb_strtolower($value);
                }
                $key = implode("\x1F", $parts);
                if (isset($first[$key])) {
                    $journey->reject(self::taken($fields, $journey, "row $first[$key]"));
                } else {
                    $first[$key] = $journey->row;
                }
            }
        }
    }

    /** @param  list<string>  $fields of the unique key */
    public static function taken(array $fields, Journey $journey, string $by): Cause
    {
        return new Cause(
            Stage::Matching,
            'taken',
            implode(', ', $fields),
            implode(', ', array_map(fn ($f) => (string) ($journey->values[$f] ?? ''), $fields)),
            "Already taken by $by",
        );
    }
}
