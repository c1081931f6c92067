<?php

namespace Baggage\Core\Ordering;

/**
 * The strongly connected components of a graph (Tarjan, Depth-first search and linear graph algorithms, 1972), without
 * recursion, since a chain of entities may be long.
 */
final class Components
{
    /** @var array<string, int> node → when it was reached */
    private array $index = [];

    /** @var array<string, int> node → the earliest node on the stack that can be reached from it */
    private array $low = [];

    /** @var list<string> */
    private array $stack = [];

    /** @var array<string, true> */
    private array $onStack = [];

    /** @var array<string, int> */
    private array $component = [];

    private int $number = 0;

    /** @param  array<string, list<string>>  $next  node → where its arrows lead */
    public function __construct(private readonly array $next)
    {
    }

    /** @return array<string, int> node → number of its component; one that an arrow leads to has the smaller number */
    public function numbers(): array
    {
        foreach (array_keys($this->next) as $root) {
            if (! isset($this->index[$root])) {
                $this->reach((string) $root);
            }
        }

        return $this->component;
    }

    private function reach(string $root): void
    {
        // A frame is a node and how many of its neighbours have been seen.
        $work = [[$root, 0]];
        while ($work !== []) {
            [$node, $at] = array_pop($work);
            if ($at === 0) {
                $this->index[$node] = $this->low[$node] = count($this->index);
                $this->stack[] = $node;
                $this->onStack[$node] = true;
            }
            if (! isset($this->next[$node][$at])) {
                $this->leave($node);

                continue;
            }
            $work[] = [$node, $at + 1];
            $to = $this->next[$node][$at];
            if (! isset($this->index[$to])) {
                $work[] = [$to, 0];
            } elseif (isset($this->onStack[$to])) {
                $this->low[$node] = min($this->low[$node], $this->index[$to]);
            }
        }
    }

    private function leave(string $node): void
    {
        foreach ($this->next[$node] as $to) {
            if (isset($this->onStack[$to])) {
                $this->low[$node] = min($this->low[$node], $this->low[$to]);
            }
        }
        if ($this->low[$node] !== $this->index[$node]) {
            return;
        }
        do {
            $member = (string) array_pop($this->stack);
            unset($this->onStack[$member]);
            $this->component[$member] = $this->number;
        } while ($member !== $node);
        $this->number++;
    }
}
