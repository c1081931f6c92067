<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Matching\MatchIndex;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;

/**
 * Decides what a record is to the target: new, an existing one, or another feed row's. Also guards the legacy key, which stands for
 * one record only.
 *
 * The first that gets through has the key and the record (SEMANTICS of the first). A row that failed and is repaired comes before the
 * later rows that stood in its stead: it takes their record over, and they wait again.
 */
final class Matcher
{
    /** @var array<array-key, KeyState> legacy key → the row that has it */
    private array $keys = [];

    /** @var array<array-key, KeyState> legacy key → what is known of it in the space the load reads */
    private array $read = [];

    /** @var array<array-key, string> match key → target key */
    private array $hits = [];

    /** @var array<array-key, Holder> target key → the row that stands on it */
    private array $holders = [];

    /**
     * @param  array<int, string>  $loads  number → name, of the loads that fill the entity, in their order
     * @param  bool  $meets  whether the target holds records of others, as far as is known
     */
    public function __construct(
        private readonly LoadDefinition $load,
        private readonly CrosswalkStore $crosswalk,
        private readonly MatchIndex $index,
        private readonly array $loads,
        private readonly bool $meets = true,
        private readonly ?Pairs $pairs = null,
    ) {
    }

    /**
     * Asks what is known of some rows, all at once.
     *
     * @param  list<Journey>  $journeys
     * @param  bool  $asks  whether they could meet what stands already: rows that share no claim with another could not
     */
    public function look(array $journeys, bool $asks): void
    {
        $open = array_filter($journeys, fn (Journey $j) => $j->isOpen());
        $keys = array_values(array_map(fn (Journey $j) => $j->legacyKey, $open));
        $entity = $this->load->entity->name;
        $this->read = $this->load->reads() && $keys !== [] ? $this->crosswalk->states($entity, $this->load->space, $keys) : [];
        $this->keys = $asks && $keys !== [] ? $this->crosswalk->states($entity, $this->load->rowSpace(), $keys) : [];
        $byHand = $open === [] ? [] : $this->pairs?->of(array_values($open)) ?? [];
        foreach ($byHand === [] ? [] : $open as $journey) {
            $journey->byHand = $byHand[$journey->row] ?? null;
        }
        $matches = [];
        foreach ($this->load->matches === [] ? [] : $open as $journey) {
            $journey->matchKeys = [];
            foreach ($this->load->matches as $rule) {
                $key = $rule->key($journey->values);
                if ($key !== null) {
                    $journey->matchKeys[] = $key;
                    $matches[$key] = true;
                }
            }
        }
        $isNew = $matches === [] || ! ($asks || $this->meets);
        $this->hits = $isNew ? [] : $this->index->find($entity, array_map(strval(...), array_keys($matches)));
        $meant = array_values(array_unique([...array_values($this->hits), ...array_values($byHand)]));
        $this->holders = ! $asks || $meant === [] ? [] : $this->crosswalk->holders($entity, $meant);
    }

    /**
     * Target keys of records a row could change.
     *
     * @return list<string>
     */
    public function records(Journey $journey): array
    {
        $found = array_values(array_intersect_key($this->hits, array_flip($journey->matchKeys)));
        $read = ($this->read[$journey->legacyKey] ?? null)?->targetKey;
        $stands = ($this->keys[$journey->legacyKey] ?? null)?->targetKey;

        $own = $journey->standing?->targetKey;

        return array_values(array_filter([...$found, $read, $stands, $own, $journey->byHand], fn (?string $key) => $key !== null));
    }

    /** What a row that got so far is: it has an outcome then, or the target key of a record to change, or is a new one. */
    public function decide(Journey $journey): void
    {
        if ($journey->isOpen() && $this->load->reads() && $journey->byHand === null) {
            $this->findByKey($journey);
        }
        if ($journey->isOpen()) {
            $this->guardKey($journey);
        }
        if ($journey->isOpen() && $this->keepsRecord($journey)) {
            $this->keepRecord($journey);

            return;
        }
        $looks = $this->load->matches !== [] || $journey->byHand !== null;
        if ($journey->isOpen() && $journey->takesOver === null && $looks) {
            $this->findRecord($journey);
        }
    }

    /** A row that was merged looks anew whose record it is; any other that stands has one of its own. */
    private function keepsRecord(Journey $journey): bool
    {
        return $journey->standing !== null && $journey->standing->outcome !== Outcome::Merged && ! $this->load->reads();
    }

    /** Its record stays its own, unless it is another's now: that is for a person to say, as two records would become one. */
    private function keepRecord(Journey $journey): void
    {
        $own = (string) $journey->standing?->targetKey;
        $hit = $this->hit($journey);
        if ($hit === null || $hit === $own) {
            $journey->targetKey = $own;

            return;
        }
        $journey->reject(new Cause(
            Stage::Matching,
            'matches_another',
            null,
            LegacyKey::show($journey->legacyKey),
            "It stands on record $own and matches record $hit now: two records would have to become one",
        ));
    }

    /** A record that is gone is matched by nobody. */
    public function forget(string $targetKey): void
    {
        $this->hits = array_diff($this->hits, [$targetKey]);
    }

    /** What a row has become is known to those decided after it. */
    public function settled(Journey $journey): void
    {
        if ($journey->targetKey === null) {
            return;
        }
        if ($journey->takesOver !== null) {
            // Rows that stood on it wait again, and have neither key nor record until their turn comes.
            $this->keys = array_filter($this->keys, fn (KeyState $k) => $k->targetKey !== $journey->targetKey);
        }
        $is = new KeyState($journey->outcome ?? Outcome::Pending, $journey->targetKey, $this->load->id, $journey->row);
        $this->keys[$journey->legacyKey] = $is;
        if ($journey->outcome === Outcome::Merged || $this->load->reads()) {
            return;
        }
        if ($journey->takesOver !== null) {
            $this->hits = array_diff($this->hits, [$journey->targetKey]);
        }
        $this->hits += array_fill_keys($journey->matchKeys, $journey->targetKey);
        $this->holders[$journey->targetKey] = new Holder($this->load->id, $journey->row, $journey->legacyKey, $is->outcome);
    }

    /**
     * Who has the value another was refused for, in words.
     *
     * @param  list<string>  $keys  target keys
     * @return array<array-key, string>
     */
    public function said(array $keys): array
    {
        $holders = $this->holders + $this->crosswalk->holders($this->load->entity->name, $keys);
        $said = [];
        foreach ($keys as $key) {
            $of = $holders[$key] ?? null;
            $said[$key] = $of === null
                ? "Already taken by record $key, which the target had before"
                : self::takenBy($of->legacyKey, $of->row, $of->load === $this->load->id ? null : $this->loads[$of->load] ?? 'another load');
        }

        return $said;
    }

    /**
     * Which row has a value, in words; those it was refused to are found by them.
     *
     * @param  string|null  $load  its name, where it is another than that of the row that was refused
     */
    public static function takenBy(string $legacyKey, int $row, ?string $load): string
    {
        return 'Already taken by '.LegacyKey::show($legacyKey).", row $row".($load === null ? '' : " of $load");
    }

    /** Records are those the load's key space leads to; what is not there yet holds the row, as a parent does. */
    private function findByKey(Journey $journey): void
    {
        [$entity, $space] = [$this->load->entity->name, $this->load->space];
        $state = $this->read[$journey->legacyKey] ?? null;
        if ($state === null) {
            $this->rejectUnmatched($journey);
        } elseif ($state->record() !== null) {
            $journey->targetKey = $state->record();
        } elseif ($state->isLeft()) {
            ParentResolver::leave($journey, null, $journey->legacyKey, $entity, $space, $state);
        } else {
            ParentResolver::hold($journey, null, $journey->legacyKey, $entity, $space, $state);
        }
    }

    private function guardKey(Journey $journey): void
    {
        $has = $this->keys[$journey->legacyKey] ?? null;
        if ($has?->targetKey === null && $has?->beside !== null) {
            $has = $has->beside;
        }
        if ($has?->targetKey === null || [$has->load, $has->row] === [$this->load->id, $journey->row]) {
            return;
        }
        if ($this->keepsRecord($journey)) {
            $this->rejectRepeat($journey, $has);

            return;
        }
        $hit = $this->hit($journey);
        $isOther = $hit !== null && $hit !== $has->targetKey;
        if ($has->isGone && $this->comesAfterGone($journey, $has, $isOther)) {
            return;
        }
        $isSurvivor = ! $this->load->reads() && $has->outcome !== Outcome::Merged;
        $isKept = $isSurvivor && (! $this->load->policy->creates() || $isOther);
        if (! $this->isBefore($journey, $has->load, $has->row) || $isKept) {
            // A load that makes no records takes none over; and where the row is another's duplicate, nobody would be left to stand on
            // the record of the later one.
            $this->rejectRepeat($journey, $has);
        } elseif ($isSurvivor) {
            $journey->targetKey = $has->targetKey;
            $journey->takesOver = $has->outcome;
        } else {
            $journey->displaces[] = [$has->load, $has->row];
        }
    }

    /** @return bool whether a row may have the key of one that is delivered no more: with its record, or without */
    private function comesAfterGone(Journey $journey, KeyState $has, bool $isOther): bool
    {
        // A record that is about to go keeps nobody from the key, where the row is another's.
        if ($has->outcome === Outcome::Merged || ($has->isLeaving && $isOther && ! $this->load->reads())) {
            $journey->displaces[] = [$has->load, $has->row];
        } elseif (! $isOther && ! $this->load->reads()) {
            // The row is back under another number: its record is the one it had.
            $journey->targetKey = $has->targetKey;
            $journey->takesOver = $has->outcome;
        } else {
            return false;
        }

        return true;
    }

    private function findRecord(Journey $journey): void
    {
        $hit = $this->hit($journey);
        if ($hit === null) {
            if (! $this->load->policy->creates()) {
                $this->rejectUnmatched($journey);
            }

            return;
        }
        $holder = $this->holders[$hit] ?? null;
        $journey->targetKey = $hit;
        if ($holder === null || [$holder->load, $holder->row] === [$this->load->id, $journey->row]) {
            return;
        }
        $isBefore = $holder->isGone || $this->isBefore($journey, $holder->load, $holder->row);
        if ($this->load->policy->creates() && $isBefore) {
            $journey->takesOver = $holder->outcome;
        } else {
            $journey->settle(Outcome::Merged, $hit);
        }
    }

    /** The record a person said it is, or that of the first rule that hits one. */
    private function hit(Journey $journey): ?string
    {
        if ($journey->byHand !== null) {
            return $journey->byHand;
        }
        foreach ($journey->matchKeys as $key) {
            if (isset($this->hits[$key])) {
                return $this->hits[$key];
            }
        }

        return null;
    }

    private function isBefore(Journey $journey, int $load, int $row): bool
    {
        $order = array_keys($this->loads);
        $place = fn (int $of) => (int) array_search($of, $order, true);

        return [$place($this->load->id), $journey->row] < [$place($load), $row];
    }

    private function rejectRepeat(Journey $journey, KeyState $has): void
    {
        $of = $has->load === $this->load->id ? '' : ' of '.($this->loads[$has->load] ?? 'another load');
        $journey->reject(
            new Cause(
                Stage::Matching,
                'duplicate_key',
                null,
                LegacyKey::show($journey->legacyKey),
                "The legacy key is already used by row $has->row$of",
            ),
        );
    }

    private function rejectUnmatched(Journey $journey): void
    {
        $journey->reject(
            new Cause(
                Stage::Matching,
                'no_match',
                null,
                $this->load->reads() ? $journey->legacyKey : LegacyKey::show($journey->legacyKey),
                $this->load->reads()
                    ? "The key space {$this->load->space} has no such key, and the write policy is {$this->load->policy->label()}"
                    : "No record in the target matches, and the write policy is {$this->load->policy->label()}",
                $this->load->reads() ? $this->load->entity->name : null,
                $this->load->reads() ? $this->load->space : null,
            ),
        );
    }
}
