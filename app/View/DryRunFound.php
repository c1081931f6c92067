<?php

namespace App\View;

use App\Models\DryRun;
use App\Rejects\Proposals;
use Baggage\Core\Rows\Cause;

/** What a dry run found, as its page says it. */
final readonly class DryRunFound
{
    private const STAND = ['loaded', 'updated', 'unchanged', 'merged', 'removed'];

    /**
     * @param  list<array{load: int|null, name: string, was: string|null, outcome: string, n: int}>  $moves
     * @param  list<array{load: int|null, name: string, outcome: string, title: string, field: string, n: int}>  $causes
     * @param  list<string>  $unforeseen
     * @param  list<string>  $failed  loads that could not be tried, and why
     * @param  list<array<string, mixed>>|null  $delta  of a delta: what would be found and sent, by load
     */
    private function __construct(
        public int $tried,
        public int $same,
        public array $moves,
        public array $causes,
        public array $unforeseen,
        public array $failed,
        private ?int $own,
        public ?array $delta = null,
    ) {
    }

    public static function of(DryRun $run, Page $page): ?self
    {
        $found = $run->found;
        if ($found === null) {
            return null;
        }
        $name = fn (mixed $load) => (string) ($page->all()->get((int) $load)->name ?? 'a load that is gone');

        return new self(
            (int) $found['tried'],
            (int) $found['same'],
            array_map(fn (array $r) => [
                'load' => (int) $r['load_id'], 'name' => $name($r['load_id']), 'was' => $r['was'], 'outcome' => (string) $r['outcome'],
                'n' => (int) $r['n'],
            ], $found['rows']),
            array_map(fn (array $c) => [
                'load' => (int) $c['load_id'],
                'name' => $name($c['load_id']),
                'outcome' => (string) $c['outcome'],
                'title' => Cause::title((string) $c['code'], (string) $c['message'], $c['kinds'] > 1),
                'field' => ($c['field'] ?? 'whole row').($c['kinds'] > 1 ? ', '.number_format((int) $c['kinds']).' values' : '')
                    .($c['kinds'] <= 1 && $c['value'] !== null ? " = $c[value]" : ''),
                'n' => (int) $c['n'],
            ], $found['causes']),
            $found['unforeseen'],
            $found['failed'],
            Proposals::of($run)?->load,
            $found['delta'] ?? null,
        );
    }

    /** What would become of the rows, in a sentence or two. */
    public function says(): string
    {
        if ($this->delta !== null) {
            return self::saysOfDelta($this->delta);
        }
        if ($this->tried === 0) {
            return 'There is no row to try.';
        }
        $says = [];
        $stand = fn (array $m) => in_array($m['outcome'], self::STAND, true);
        $own = $this->own === null ? $this->moves : array_filter($this->moves, fn (array $m) => $m['load'] === $this->own);
        $pass = self::sum(array_filter($own, $stand));
        $says[] = Say::count($this->tried, 'row').' tried: '.number_format($pass).' would pass';
        $rest = ['rejected' => 'would be rejected for something else', 'held' => 'would wait for a parent', 'waived' => 'stay behind'];
        foreach ($this->own === null ? ['rejected' => 'would be rejected', 'held' => 'would be held', 'excluded' => 'are outside the scope',
            'waived' => 'stay behind', 'pending' => 'would wait'] : $rest as $outcome => $words) {
            $n = self::sum(array_filter($own, fn (array $m) => $m['outcome'] === $outcome));
            $says[] = $n === 0 ? '' : number_format($n)." $words";
        }
        $below = $this->own === null ? [] : array_filter($this->moves, fn (array $m) => $m['load'] !== $this->own);
        $freed = self::sum(array_filter($below, $stand));
        $others = self::sum($below) - $freed;
        $says[] = $freed === 0 ? '' : number_format($freed).' of other loads would pass with them';
        $says[] = $others === 0 ? '' : number_format($others).' of other loads would fail for something else';
        $says[] = $this->same === 0 ? '' : number_format($this->same).' would be as they are';

        return implode(', ', array_filter($says)).'.';
    }

    /** @param  list<array<string, mixed>>  $delta */
    private static function saysOfDelta(array $delta): string
    {
        $n = fn (string $what) => (int) array_sum(array_column($delta, $what));
        $says = [
            Say::count($n('added'), 'row').' came', number_format($n('gone')).' are delivered no more',
            Say::count($n('records_made'), 'record').' would be made', number_format($n('records_changed')).' changed',
            $n('would_remove') === 0 ? '' : number_format($n('would_remove')).' removed unless something refers to them',
            Say::count($n('untouched'), 'row').' '.($n('untouched') === 1 ? 'is' : 'are').' not touched',
        ];

        return implode(', ', array_filter($says)).'.';
    }

    /** @param  array<array{n: int}>  $moves */
    private static function sum(array $moves): int
    {
        return array_sum(array_column($moves, 'n'));
    }
}
