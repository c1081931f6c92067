<?php

namespace App\Ledger;

use Baggage\Core\Loading\KeyBook;
use Baggage\Core\Loading\LoadLedger;
use Baggage\Core\Loading\Portion;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\SentHash;

/** The ledger as one load of a dry run writes it: apart, one row after another by one worker, and only what would differ. */
final class DryLedger implements KeyBook, LoadLedger
{
    private int $reached = 0;

    private int $announced = 0;

    /** @var list<int> rows that gave up their record to one that was tried after them in the same stretch */
    private array $back = [];

    public int $tried = 0;

    public int $same = 0;

    /** Records that would be made. */
    public int $created = 0;

    /** Records that would be changed. */
    public int $changed = 0;

    /** @var array<string, int> field → records in which it would be changed */
    public array $fields = [];

    /**
     * @param  int  $entity  id of what the load fills
     * @param  int  $space  id of the space its rows are kept in
     * @param  int|null  $last  the last row where all are tried; null for those gathered in the tries
     * @param  \Closure(int): void  $goesOn  called with the rows of each stretch
     */
    public function __construct(
        private readonly LoadDefinition $load,
        private readonly int $entity,
        private readonly int $space,
        private readonly DryRows $dry,
        private readonly DryTries $tries,
        private readonly DryMatches $matches,
        private readonly ?int $last,
        private readonly int $feedRows,
        private readonly \Closure $goesOn,
    ) {
    }

    public function take(bool $inTurn, int $most): ?Portion
    {
        if ($this->back !== []) {
            sort($this->back);
            $rows = array_slice($this->back, 0, $most);
            $this->back = array_slice($this->back, $most);

            return new Portion($rows[0] - 1, end($rows), false, $rows);
        }
        $after = $this->reached;
        if ($this->last !== null) {
            $this->reached = min($this->last, $after + $most);

            return $after >= $this->last ? null : new Portion($after, $this->reached);
        }
        $rows = $this->tries->after($this->load->id, $after, $most);
        $this->reached = $rows === [] ? $after : end($rows);

        return $rows === [] ? null : new Portion($after, $this->reached, false, $rows);
    }

    public function tell(Portion $portion, array $claims): array
    {
        return [];
    }

    public function leave(Portion $portion, bool $inTurn): void
    {
        // Nobody else is at it.
    }

    public function record(Stretch $stretch, array $journeys): void
    {
        $rows = array_map(fn (Journey $j) => $j->row, $journeys);
        $before = $this->tries->before($this->load->id, $rows);
        $differ = array_values(array_filter($journeys, fn (Journey $j) => ! self::isSame($j, $before[$j->row] ?? null)));
        $this->tried += count($rows);
        $this->same += count($rows) - count($differ);
        array_map($this->count(...), $differ);
        $this->displace($journeys);
        $this->again($journeys);
        $this->dry->put($this->load->id, $this->space, $this->load->reads(), $rows, $differ, $before);
        $entries = [];
        foreach ($journeys as $journey) {
            if ($journey->targetKey !== null && $journey->outcome !== Outcome::Merged) {
                $entries += array_fill_keys($journey->matchKeys, $journey->targetKey);
            }
        }
        $this->matches->write($this->load->entity->name, $entries);
        ($this->goesOn)(count($rows));
    }

    public function next(int $most): ?Portion
    {
        $from = $this->announced;

        return $from >= $this->feedRows ? null : new Portion($from, min($this->feedRows, $from + $most));
    }

    public function put(Portion $portion, array $keys): void
    {
        $this->dry->announce($this->load->id, $this->space, $keys);
        $this->announced = $portion->to;
    }

    /**
     * What later rows of a load that finds its records by key put over records that would change they would put over them again.
     *
     * @param  list<Journey>  $journeys
     */
    private function again(array $journeys): void
    {
        $changed = [];
        foreach ($this->load->reads() && $this->last === null ? $journeys : [] as $journey) {
            if ($journey->before !== [] && $journey->targetKey !== null) {
                $changed[$journey->row] = $journey->targetKey;
            }
        }
        $tried = array_fill_keys(array_map(fn (Journey $j) => $j->row, $journeys), true);
        foreach ($this->tries->laterOnes($this->load->id, $changed) as $row) {
            if ($row > $this->reached) {
                $this->tries->rows($this->load->id, [$row]);
            } elseif (! isset($tried[$row])) {
                $this->back[] = $row;
            }
        }
    }

    private function count(Journey $journey): void
    {
        $changes = DryRows::changes($journey);
        $this->created += max(0, $journey->records);
        $this->changed += (int) ($changes !== []);
        foreach (array_keys($changes) as $field) {
            $this->fields[$field] = ($this->fields[$field] ?? 0) + 1;
        }
    }

    /** What a target says of its own accord is not known before, so failures are compared by what they are about. */
    private static function isSame(Journey $journey, ?\stdClass $was): bool
    {
        if ($was === null || ($journey->outcome ?? Outcome::Pending)->value !== $was->outcome) {
            return false;
        }
        $cause = $journey->cause;
        if ($cause === null && $journey->standing !== null && $journey->targetKey === $was->target_key) {
            return $journey->before === [] && $journey->records === 0;
        }

        return $cause === null
            ? $journey->targetKey === $was->target_key && ($journey->targetKey === null || SentHash::of($journey) === $was->sent_hash)
            : [$cause->code, $cause->field, CauseBook::shown($cause)] === [$was->code, $was->field, $was->value];
    }

    /**
     * Later rows that stood only because an earlier one had failed wait again, and are tried again.
     *
     * @param  list<Journey>  $journeys
     */
    private function displace(array $journeys): void
    {
        $taken = $rows = [];
        foreach ($journeys as $journey) {
            array_push($rows, ...$journey->displaces);
            if ($journey->takesOver !== null && $journey->targetKey !== null) {
                $taken[] = $journey->targetKey;
            }
        }
        if ($taken === [] && $rows === []) {
            return;
        }
        $own = array_fill_keys(array_map(fn (Journey $j) => $j->row, $journeys), true);
        $lines = [];
        foreach ([...$this->tries->standing($this->entity, $taken, $rows), ...$this->dry->withTargets($this->entity, $taken)] as $line) {
            $lines["$line->load_id $line->row_no"] = $line;
        }
        $this->dry->displace(array_values($lines));
        $this->matches->forgetRows($this->load->entity->name, $taken);
        foreach ($lines as $line) {
            [$load, $row] = [(int) $line->load_id, (int) $line->row_no];
            if ($load === $this->load->id && $row <= $this->reached && ! isset($own[$row])) {
                $this->back[] = $row;
            } elseif ($this->last === null || $load !== $this->load->id) {
                $this->tries->rows($load, [$row]);
            }
        }
    }
}
