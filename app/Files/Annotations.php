<?php

namespace App\Files;

use App\Ledger\CauseReader;
use App\Ledger\RowFilter;
use App\Ledger\RowList;
use App\Models\Load;
use App\Models\Pass;
use App\Models\Round;
use App\Models\Take;
use App\Staging\StagedRows;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Rows\Outcome;

/** What became of each row of a take in a round, as the client reads it beside their own cells. */
final readonly class Annotations
{
    private const AT_ONCE = 1_000;

    /** @param  list<Load>  $loads  that read the take */
    private function __construct(private Round $round, private Take $take, private array $loads, private Words $words)
    {
    }

    /** @throws \DomainException where the round has no load that reads it */
    public static function of(Round $round, Take $take): self
    {
        $ids = $round->roundLoads()->where('take_id', $take->id)->pluck('load_id');
        $loads = array_values(Load::query()->whereIn('id', $ids)->orderBy('position')->get()->all());

        return $loads === []
            ? throw new \DomainException("No load of round $round->name reads this take.")
            : new self($round, $take, $loads, Words::of($round->migration->words));
    }

    /** @return list<string> titles of the added columns: of each load its own, where there are several */
    public function titles(): array
    {
        $titles = [];
        foreach ($this->loads as $load) {
            foreach (['outcome', 'new_key', 'message', 'pass'] as $key) {
                $titles[] = (count($this->loads) > 1 ? "$load->name: " : '').$this->words->say($key);
            }
        }

        return $titles;
    }

    /** @return \Generator<int, list<string>> line the row begins in → what is added to it, in the order of the lines */
    public function lines(): \Generator
    {
        $some = [];
        foreach (StagedRows::walk($this->take->id) as $row => [$line]) {
            $some[$row] = $line;
            if (count($some) === self::AT_ONCE) {
                yield from $this->some($some);
                $some = [];
            }
        }
        yield from $this->some($some);
    }

    /**
     * @param  array<int, int>  $rows  number → line
     * @return \Generator<int, list<string>>
     */
    private function some(array $rows): \Generator
    {
        $said = [];
        $list = new RowList($this->round->laneId());
        $causes = new CauseReader($this->round->laneId());
        $passes = Pass::query()->where('round_id', $this->round->id)->pluck('number', 'id')->all();
        foreach ($rows === [] ? [] : $this->loads as $n => $load) {
            $found = $list->page([$load->id], new RowFilter, [$load->id, (int) array_key_first($rows) - 1], count($rows));
            $because = $causes->byId(array_map(fn ($r) => $r->cause_id === null ? null : (int) $r->cause_id, $found));
            foreach ($found as $row) {
                $cause = $because[(int) $row->cause_id] ?? null;
                $said[(int) $row->row_no][$n] = [
                    $this->words->outcome(Outcome::from($row->outcome)),
                    (string) $row->target_key,
                    $cause === null ? '' : $this->message($cause),
                    (string) ($passes[(int) $row->pass_id] ?? ''),
                ];
            }
        }
        foreach ($rows as $row => $line) {
            yield $line => array_merge(...array_map(
                fn (int $n) => $said[$row][$n] ?? [$this->words->outcome(Outcome::Pending), '', '', ''],
                array_keys($this->loads),
            ));
        }
    }

    private function message(\stdClass $cause): string
    {
        $about = implode(' = ', array_filter([(string) $cause->field, $cause->value === null ? '' : LegacyKey::show($cause->value)]));

        return $this->words->wrong($cause->code, $cause->message).($about === '' ? '' : " ($about)");
    }
}
