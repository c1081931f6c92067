<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\SentHash;

/** Everything a stretch of rows leaves in the ledger, as text ready to be written. */
final class BatchRecord
{
    /** Bytes of a value the target wrote otherwise that are kept. */
    private const LONGEST = 500_000;

    public string $outcomes = '';

    public string $causes = '';

    public int $causeCount = 0;

    public string $links = '';

    public int $linkCount = 0;

    public string $before = '';

    public int $beforeCount = 0;

    /** What the target wrote otherwise than it was given. */
    public string $holds = '';

    public int $holdsCount = 0;

    /** Records the target has more or fewer for it. */
    public int $made = 0;

    /** Records that were removed. */
    public int $removed = 0;

    /** @var list<int> */
    public array $rows = [];

    /** @var list<int> rows whose line stays as it is */
    public array $same = [];

    /** @var list<int> rows left out whose record stands: what they refer to and match by is that of the record */
    public array $older = [];

    /** @var list<array{string, string}> legacy keys that lead to another record than before, and the record its row stood on */
    public array $moved = [];

    /** @var array<int, string> row → target key of a record that was there and is another now */
    public array $changed = [];

    /** @var array<int, array<string, string|null>> row → its record as it was, where that was not as it had been sent */
    private array $suspects = [];

    /** @var array<int, list<string>> row → fields others had changed, which were overwritten */
    public array $overwritten = [];

    /** @var array<int, list<string>> row → fields others had changed, which are as they left them */
    public array $kept = [];

    /** @var list<int> rows that are in nobody's scope any more, and whose record goes as those of rows delivered no more */
    public array $left = [];

    /** @var array<string, int> outcome → rows */
    public array $counts = [];

    /** @var array<int, array<string, int>> cause → outcome → rows, "below" for those that wait for it in the end */
    public array $ofCauses = [];

    /** @var list<MatchEntry> */
    public array $matches = [];

    /** @var list<string> target keys of records that rows take over from later ones */
    public array $takenOver = [];

    /** @var list<array{int, int}> load and number of rows that give up their legacy key */
    public array $displaced = [];

    /** @param  'free'|'turn'  $kind  of stretch */
    private function __construct(public readonly int $after, public readonly int $last, public readonly string $kind)
    {
    }

    /**
     * @param  list<Journey>  $journeys
     * @param  Spaces  $spaces  of keys
     */
    public static function of(Stretch $stretch, array $journeys, LoadRun $run, CauseBook $book, Spaces $spaces): self
    {
        $ids = $book->ids(array_values(array_filter(array_map(fn (Journey $j) => $j->cause, $journeys))));
        $record = new self($stretch->after, $stretch->to, $stretch->inTurn ? Stretches::TURN : Stretches::FREE);
        foreach ($journeys as $journey) {
            if ($journey->isAsItStood()) {
                $record->same[] = $journey->row;

                continue;
            }
            $record->line($journey, $run);
            if ($journey->cause !== null) {
                $record->cause($journey, $run, $ids[CauseBook::hash($journey->cause)]);
            }
            if ($journey->targetKey !== null) {
                $record->record($journey, $run, $spaces);
            }
        }

        return $record;
    }

    private function line(Journey $journey, LoadRun $run): void
    {
        $outcome = ($journey->outcome ?? Outcome::Pending)->value;
        $this->rows[] = $journey->row;
        $this->counts[$outcome] = ($this->counts[$outcome] ?? 0) + 1;
        $this->made += $journey->records;
        $this->removed += $journey->records < 0 ? 1 : 0;
        // One that changes records of others stands on none of its own.
        $older = $journey->keepsOlder() && ! $run->load->reads() ? $journey->standing : null;
        [$key, $record] = [$older->legacyKey ?? $journey->legacyKey, $older->targetKey ?? $journey->targetKey];
        // One record per legacy key is the crosswalk's; a merged row has its own key and its survivor's target key.
        $stands = $record === null || $run->load->reads() ? '\N' : '1';
        $target = $record === null ? '\N' : BulkRows::text($record);
        $hash = $journey->targetKey === null ? $older->sentHash ?? '\N' : SentHash::of($journey);
        $this->outcomes .= "$journey->row\t".BulkRows::text($key)."\t$stands\t$outcome\t$target\t$hash\n";
        if ($older !== null) {
            $this->counts[CountProof::OLDER] = ($this->counts[CountProof::OLDER] ?? 0) + 1;
            $this->older[] = $journey->row;
            $journey->outcome === Outcome::Excluded ? $this->left[] = $journey->row : null;
        }
        $was = $run->isDelta() && $older === null ? $journey->standing ?? $journey->gaveUp : null;
        if ($was !== null && [$was->targetKey, $was->legacyKey] !== [$journey->targetKey, $journey->legacyKey]) {
            array_push($this->moved, [$was->legacyKey, $was->targetKey], [$journey->legacyKey, $was->targetKey]);
        }
    }

    /** @return array<int, array<string, string|null>> row → its record as it was, where that was not as it had been sent */
    public function before(): array
    {
        return $this->suspects;
    }

    /** @param  array<string, string|null>  $values  a record as it was */
    public static function json(array $values): string
    {
        return json_encode($values, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE);
    }

    private function cause(Journey $journey, LoadRun $run, int $cause): void
    {
        $this->causes .= BulkRows::line([$run->lane(), $run->load->id, $journey->row, $cause, $journey->rootCause]);
        $this->causeCount++;
        $outcome = ($journey->outcome ?? Outcome::Pending)->value;
        $this->ofCauses[$cause][$outcome] = ($this->ofCauses[$cause][$outcome] ?? 0) + 1;
        if ($journey->rootCause !== null) {
            $this->ofCauses[$journey->rootCause]['below'] = ($this->ofCauses[$journey->rootCause]['below'] ?? 0) + 1;
        }
    }

    private function record(Journey $journey, LoadRun $run, Spaces $spaces): void
    {
        $load = $run->load->id;
        array_push($this->displaced, ...$journey->displaces);
        if ($journey->takesOver !== null) {
            $this->takenOver[] = (string) $journey->targetKey;
        }
        // Rows merged into it look anew whose record it is.
        $journey->goneRecord === null ?: $this->takenOver[] = $journey->goneRecord;
        // What a merged row would match by other rules is not its survivor's.
        foreach ($journey->outcome === Outcome::Merged ? [] : $journey->matchKeys as $key) {
            $this->matches[] = new MatchEntry($key, (string) $journey->targetKey, $load, $journey->row);
        }
        if ($journey->before !== []) {
            $this->changed[$journey->row] = (string) $journey->targetKey;
            $sent = $run->isAgain() && ! $run->load->reads() && $journey->takesOver === null ? $journey->standing?->sentHash : null;
            if ($sent !== null && SentHash::ofRecord(array_intersect_key($journey->before, $run->load->rules)) !== $sent) {
                $this->suspects[$journey->row] = $journey->before;
            }
            $this->before .= BulkRows::line([
                $run->number(), $load, $journey->row, $run->entity, (string) $journey->targetKey, self::json($journey->before),
            ]);
            $this->beforeCount++;
        }
        $this->holds($journey, $run);
        foreach ($journey->outcome === Outcome::Merged ? [] : $journey->links as $field => $link) {
            $this->links .= BulkRows::line([
                $run->lane(),
                $load,
                $journey->row,
                $field,
                $spaces->id($link['entity'], $link['space']),
                $link['key'],
                $journey->targetKey,
                ($link['isSet'] ? LinkState::Made : LinkState::Waiting)->value,
            ]);
            $this->linkCount++;
        }
    }

    /** What the target wrote otherwise than it was given. */
    private function holds(Journey $journey, LoadRun $run): void
    {
        $holds = array_filter($journey->holds, fn (?string $v) => strlen((string) $v) <= self::LONGEST);
        if ($holds !== []) {
            $this->holds .= BulkRows::line([$run->lane(), $run->load->id, $journey->row, $run->number(), self::json($holds)]);
            $this->holdsCount++;
        }
    }
}
