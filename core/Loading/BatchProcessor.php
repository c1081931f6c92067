<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Rows\Standing;
use Baggage\Core\Targets\Entity;

/** Takes a stretch of feed rows through the life of a row (DESIGN section 2). */
final readonly class BatchProcessor
{
    /**
     * @param  StandingRows|null  $standing  where rows may have been worked on before
     * @param  bool  $reads  whether the load changes records of other loads: what these wrote since it writes over again
     * @param  OthersGuard|null  $others  where what others did to records is not simply written over
     */
    public function __construct(
        private Entity $entity,
        private WritePolicy $policy,
        private Mapper $mapper,
        private ParentResolver $parents,
        private Matcher $matcher,
        private Claims $claims,
        private Target $target,
        private Mark $mark,
        private Waivers $waivers,
        private ?StandingRows $standing = null,
        private bool $reads = false,
        private ?OthersGuard $others = null,
    ) {
    }

    /**
     * Rows mapped, their parents found, and what is known of them asked.
     *
     * @param  iterable<int, list<string|null>>  $rows  row number → cells
     * @return list<Journey>
     */
    public function prepare(iterable $rows, bool $inTurn): array
    {
        $journeys = [];
        foreach ($rows as $number => $cells) {
            $journeys[] = $this->mapper->map($number, $cells);
        }
        $standing = $journeys === [] ? [] : $this->standing?->of(array_map(fn (Journey $j) => $j->row, $journeys)) ?? [];
        foreach ($standing === [] ? [] : $journeys as $journey) {
            $journey->standing = $standing[$journey->row] ?? null;
        }
        $this->parents->resolve($journeys);
        $this->matcher->look($journeys, $inTurn);

        return $journeys;
    }

    /**
     * @param  list<Journey>  $journeys
     * @return array<int, non-empty-list<string>> row → what it claims; a row that got nowhere claims nothing
     */
    public function claims(array $journeys): array
    {
        $claims = [];
        foreach ($journeys as $journey) {
            if ($journey->isOpen()) {
                $claims[$journey->row] = $this->claims->of($journey);
            }
        }

        return $claims;
    }

    /**
     * @param  list<Journey>  $journeys  as prepared
     * @param  Receipt|null  $receipt  what the target did about these rows already, before the pass broke off
     * @return list<Journey> the same, all with an outcome
     *
     * @throws TargetUnavailable
     */
    public function finish(array $journeys, Stretch $stretch, ?Receipt $receipt = null): array
    {
        // What has its record already may have got it before the parent had one.
        array_map(fn (Journey $j) => $j->setLater(), $receipt === null ? [] : $journeys);
        $writing = $receipt === null ? null : new Remembered($receipt);
        try {
            foreach ($stretch->inTurn ? $this->inTurn($journeys) : [$journeys] as $some) {
                $this->anew($some);
                $orders = $this->orders($some, $receipt);
                if ($orders !== []) {
                    $writing ??= $this->target->begin($this->entity, $stretch, $this->mark);
                    $this->hear($some, $writing->do($orders));
                }
                array_map($this->matcher->settled(...), $stretch->inTurn ? $some : []);
                $stretch->inTurn ? self::giveUp($some, $journeys, $stretch->load) : null;
            }
            $writing?->keep();
        } catch (\Throwable $e) {
            $writing?->drop();
            throw $e;
        }
        $this->waive($journeys);

        return $journeys;
    }

    /**
     * Rows that are in each other's way go one after another, in row order; those that are not go together. One that changes a record
     * goes alone where values must be unique: which ones it leaves free is not known before.
     *
     * @param  list<Journey>  $journeys
     * @return list<list<Journey>>
     */
    private function inTurn(array $journeys): array
    {
        $groups = $last = [];
        $from = 0;
        foreach ($journeys as $journey) {
            $group = $from;
            $claims = $journey->isOpen() ? $this->claims->of($journey) : [];
            $mayChange = $claims !== [] && $this->entity->uniques !== [] && ! $journey->isAsSent();
            $isAlone = $mayChange && $this->matcher->records($journey) !== [];
            foreach ($claims as $claim) {
                $group = max($group, ($last[$claim] ?? -1) + 1);
            }
            if ($isAlone) {
                $group = max($group, count($groups));
                $from = $group + 1;
            }
            foreach ($claims as $claim) {
                $last[$claim] = $group;
            }
            $groups[$group][] = $journey;
        }
        ksort($groups);

        return array_values($groups);
    }

    /**
     * A record that is gone and wanted again is made anew.
     *
     * @param  list<Journey>  $journeys
     *
     * @throws TargetUnavailable
     */
    private function anew(array $journeys): void
    {
        foreach ($this->others?->gone($journeys) ?? [] as $journey) {
            $journey->goneRecord = (string) $journey->standing?->targetKey;
            $this->matcher->forget($journey->goneRecord);
            $journey->givesUp();
        }
    }

    /**
     * Later rows of the stretch that stood on what some have now stand on nothing.
     *
     * @param  list<Journey>  $settled
     * @param  list<Journey>  $journeys
     */
    private static function giveUp(array $settled, array $journeys, int $load): void
    {
        $records = $rows = [];
        foreach ($settled as $journey) {
            if ($journey->takesOver !== null && $journey->targetKey !== null) {
                $records[$journey->targetKey] = true;
            }
            foreach ($journey->displaces as [$of, $row]) {
                $of === $load ? $rows[$row] = true : null;
            }
        }
        foreach ($records === [] && $rows === [] ? [] : $journeys as $journey) {
            $stood = isset($records[$journey->standing->targetKey ?? '']) || isset($rows[$journey->row]);
            if ($stood && ! in_array($journey, $settled, true)) {
                $journey->givesUp();
            }
        }
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
     *
     * @throws TargetUnavailable
     */
    private function orders(array $journeys, ?Receipt $receipt): array
    {
        $verbs = [];
        foreach ($journeys as $journey) {
            $this->matcher->decide($journey);
            if ($journey->isOpen()) {
                $verbs[$journey->row] = $this->verb($journey);
            }
        }
        $this->guard($journeys, $verbs, $receipt);
        $orders = [];
        foreach ($journeys as $journey) {
            $verb = $verbs[$journey->row] ?? null;
            if (! $journey->isOpen() || $this->isSettled($journey, $verb)) {
                continue;
            }
            // Of a record nobody read the target says whether it is there.
            $values = match ($verb) {
                null => [],
                Verb::Change => $this->whole($journey->values),
                default => $journey->values,
            };
            $values = array_diff_key($values, array_flip($journey->others ?? []));
            $orders[] = new Order($journey->row, $journey->legacyKey, $verb ?? Verb::Update, $journey->targetKey, $values);
        }

        return $orders;
    }

    /** @return Verb|null null where nothing is to be done */
    private function verb(Journey $journey): ?Verb
    {
        return match (true) {
            $journey->targetKey === null => Verb::Create,
            $journey->takesOver === Outcome::Loaded => Verb::Replace,
            self::own($journey)?->outcome === Outcome::Loaded => Verb::Change,
            $this->policy->updates() => Verb::Update,
            default => null,
        };
    }

    /** What it stands on, where its record is that one still. */
    private static function own(Journey $journey): ?Standing
    {
        return $journey->targetKey === $journey->standing?->targetKey && $journey->takesOver === null ? $journey->standing : null;
    }

    /** Whether its record is as it should be, or may not be changed. */
    private function isSettled(Journey $journey, ?Verb $verb): bool
    {
        $own = self::own($journey);
        if ($own !== null && ! $this->reads && $journey->isAsSent()) {
            $journey->settle($own->outcome, $own->targetKey);
        } elseif ($verb === null && ($journey->byHand === null || $own !== null)) {
            $journey->settle(Outcome::Unchanged, (string) $journey->targetKey);
        }

        return ! $journey->isOpen();
    }

    /**
     * What others did to records that are to be changed again. One the target has changed already is not as they left it.
     *
     * @param  list<Journey>  $journeys
     * @param  array<int, Verb|null>  $verbs  by row
     *
     * @throws TargetUnavailable
     */
    private function guard(array $journeys, array $verbs, ?Receipt $receipt): void
    {
        if ($this->others === null || ! $this->others->isNeeded()) {
            return;
        }
        $did = array_column($receipt->answers ?? [], 'done', 'row');
        $this->others->look(array_values(array_filter($journeys, function (Journey $j) use ($verbs, $did) {
            $own = $j->isOpen() && in_array($verbs[$j->row] ?? null, [Verb::Change, Verb::Update], true) ? self::own($j) : null;

            return $own !== null && ! $own->isWrittenAgain && ! $j->isAsSent() && ($did[$j->row] ?? null) !== Done::Changed;
        })));
    }

    /**
     * A field whose rule gives nothing has the target's own default again, where that is a value.
     *
     * @param  array<string, string|null>  $values
     * @return array<string, string|null>
     */
    private function whole(array $values): array
    {
        foreach (array_diff_key($this->mapper->rules(), $values) as $field => $rule) {
            $default = $this->entity->fields[$field]->default ?? null;
            if ($default !== null && ! str_contains($default, '(')) {
                $values[$field] = $default;
            }
        }

        return $values;
    }

    /**
     * Turns answers into outcomes and causes.
     *
     * @param  list<Journey>  $journeys
     * @param  list<Answer>  $answers
     */
    private function hear(array $journeys, array $answers): void
    {
        $byRow = array_column($journeys, null, 'row');
        $by = array_filter(array_map(fn (Answer $a) => $a->said?->by, $answers), fn (?string $key) => $key !== null);
        $holders = $by === [] ? [] : $this->matcher->said(array_values(array_unique($by)));
        foreach ($answers as $answer) {
            $journey = $byRow[$answer->row] ?? null;
            if ($journey === null) {
                continue;
            }
            $key = (string) $answer->targetKey;
            $isOwn = $journey->takesOver === Outcome::Loaded
                || ($journey->standing?->outcome === Outcome::Loaded && $journey->standing->targetKey === $key);
            $same = $journey->standing?->targetKey === $key && $journey->standing->outcome !== Outcome::Merged
                ? $journey->standing->outcome
                : Outcome::Unchanged;
            match ($answer->done) {
                Done::Created => $journey->settle(Outcome::Loaded, $key),
                Done::Changed => $journey->settle($isOwn ? Outcome::Loaded : Outcome::Updated, $key),
                Done::Same => $journey->settle($isOwn ? Outcome::Loaded : $same, $key),
                Done::Removed => $journey->settle(Outcome::Removed, $key),
                Done::Gone => $journey->reject(self::gone($key)),
                Done::Refused => $journey->reject(self::cause($journey, $answer->said, $holders[$answer->said?->by] ?? null)),
            };
            $journey->before = $answer->before;
            $journey->holds = $answer->holds;
            $journey->records = $answer->done->records();
        }
    }

    private static function gone(string $key): Cause
    {
        return new Cause(Stage::Writing, 'record_gone', null, $key, "The record $key is no longer in the target");
    }

    /** @param  string|null  $taken  who has the value, in words */
    private static function cause(Journey $journey, ?Said $said, ?string $taken): Cause
    {
        $fields = $said->fields ?? [];
        $values = array_map(fn ($f) => (string) ($journey->values[$f] ?? ''), $fields);
        $own = $said?->own === null ? '' : " (the target says: $said->own)";

        return new Cause(
            $said?->code === Said::TAKEN ? Stage::Matching : Stage::Writing,
            $said->code ?? Said::REFUSED,
            $fields === [] ? null : implode(', ', $fields),
            $fields === [] ? null : implode(', ', $values),
            ($taken ?? $said->message ?? 'The target refused it').$own,
        );
    }
}
