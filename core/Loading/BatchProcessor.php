<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Targets\Entity;

/** Takes a stretch of feed rows through the life of a row (DESIGN section 2). */
final readonly class BatchProcessor
{
    public function __construct(
        private Entity $entity,
        private WritePolicy $policy,
        private Mapper $mapper,
        private ParentResolver $parents,
        private Matcher $matcher,
        private Target $target,
        private Mark $mark,
        private Waivers $waivers,
    ) {
    }

    /**
     * @param  iterable<int, list<string|null>>  $rows  row number → cells
     * @param  Receipt|null  $receipt  what the target did about these rows already, before the pass broke off
     * @return list<Journey> all with an outcome
     *
     * @throws TargetUnavailable
     */
    public function process(iterable $rows, Stretch $stretch, ?Receipt $receipt = null): array
    {
        $journeys = [];
        foreach ($rows as $number => $cells) {
            $journeys[] = $this->mapper->map($number, $cells);
        }
        $this->parents->resolve($journeys);
        $this->matcher->match($journeys);
        $twins = $this->setTwinsAside($journeys);
        $this->rejectTakenWithinBatch($journeys);
        $orders = $this->orders($journeys);
        $this->hear($journeys, $receipt->answers ?? $this->target->write($this->entity, $orders, $stretch, $this->mark));
        $this->settleTwins($twins);
        $this->waive($journeys);

        return $journeys;
    }

    /** @param  list<Journey>  $journeys */
    private function waive(array $journeys): void
    {
        $rejected = array_values(array_filter($journeys, fn (Journey $j) => $j->outcome === Outcome::Rejected));
        $waived = $rejected === [] ? [] : array_flip($this->waivers->covering($rejected));
        foreach ($rejected as $journey) {
            if (isset($waived[$journey->row])) {
                $journey->waive();
            }
        }
    }

    /**
     * What the target is to do about the rows that got so far; a record that is there and may not be changed is settled without it.
     *
     * @param  list<Journey>  $journeys
     * @return list<Order>
     */
    private function orders(array $journeys): array
    {
        $orders = [];
        foreach ($journeys as $journey) {
            if (! $journey->isOpen()) {
                continue;
            }
            if ($journey->targetKey !== null && ! $this->policy->updates()) {
                $journey->settle(Outcome::Unchanged, $journey->targetKey);
            } else {
                $verb = $journey->targetKey === null ? Verb::Create : Verb::Update;
                $orders[] = new Order($journey->row, $journey->legacyKey, $verb, $journey->targetKey, $journey->values);
            }
        }

        return $orders;
    }

    /**
     * Turns answers into outcomes and causes.
     *
     * @param  list<Journey>  $journeys
     * @param  list<Answer>  $answers
     */
    private function hear(array $journeys, array $answers): void
    {
        $byRow = [];
        foreach ($journeys as $journey) {
            $byRow[$journey->row] = $journey;
        }
        foreach ($answers as $answer) {
            $journey = $byRow[$answer->row] ?? null;
            if ($journey === null) {
                continue;
            }
            $key = (string) $answer->targetKey;
            match ($answer->done) {
                Done::Created => $journey->settle(Outcome::Loaded, $key),
                Done::Changed => $journey->settle(Outcome::Updated, $key),
                Done::Same => $journey->settle(Outcome::Unchanged, $key),
                Done::Removed => $journey->settle(Outcome::Removed, $key),
                Done::Gone => $journey->reject(self::gone($key)),
                Done::Refused => $journey->reject(self::cause($journey, $answer->said)),
            };
            $journey->before = $answer->before;
            $journey->records = $answer->done->records();
        }
    }

    private static function gone(string $key): Cause
    {
        return new Cause(Stage::Writing, 'record_gone', null, $key, "The record $key is no longer in the target");
    }

    private static function cause(Journey $journey, ?Said $said): Cause
    {
        $fields = $said->fields ?? [];

        return $said?->code === Said::TAKEN
            ? self::taken($fields, $journey, $said->message)
            : new Cause(
                Stage::Writing,
                Said::REFUSED,
                $fields[0] ?? null,
                $fields === [] ? null : $journey->values[$fields[0]] ?? null,
                $said->message ?? 'Target refused',
            );
    }

    /**
     * Rows of the batch that match an earlier row of the batch are that row's record: the first rule that hits decides, and what a row
     * that is set aside would match by other rules is not gathered along.
     *
     * @param  list<Journey>  $journeys
     * @return list<array{Journey, Journey}> later row, earlier row
     */
    private function setTwinsAside(array $journeys): array
    {
        $first = $twins = [];
        foreach ($journeys as $journey) {
            if (! $journey->isOpen()) {
                continue;
            }
            $known = array_values(array_intersect($journey->matchKeys, array_map(strval(...), array_keys($first))));
            if ($known !== []) {
                $journey->outcome = Outcome::Merged;
                $twins[] = [$journey, $first[$known[0]]];
            } else {
                $first += array_fill_keys($journey->matchKeys, $journey);
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
                    $journey->reject(self::taken($fields, $journey, "Already taken by row $first[$key]"));
                } else {
                    $first[$key] = $journey->row;
                }
            }
        }
    }

    /** @param  list<string>  $fields of the unique key */
    private static function taken(array $fields, Journey $journey, string $message): Cause
    {
        return new Cause(
            Stage::Matching,
            Said::TAKEN,
            implode(', ', $fields),
            implode(', ', array_map(fn ($f) => (string) ($journey->values[$f] ?? ''), $fields)),
            $message,
        );
    }
}
