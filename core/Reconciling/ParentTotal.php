<?php

namespace Baggage\Core\Reconciling;

/** What the children of a control total must add up to, on the rows of one load of their parents. */
final readonly class ParentTotal
{
    /**
     * @param  Amount  $amount  of the parent's field
     * @param  string  $space  key space of the load's rows
     */
    public function __construct(private TotalCount $count, private Amount $amount, private string $space, private Reading $legacy)
    {
    }

    /** @return list<string> fields of records it needs */
    public function fields(): array
    {
        return [(string) $this->count->total->parentField];
    }

    /** @param  list<CountedRow>  $rows */
    public function page(array $rows): void
    {
        foreach ($rows as $row) {
            $cells = $row->now ?? $row->made;
            $group = LoadTotal::cut($row->targetKey ?? GroupKeys::unfound($this->space, $row->legacyKey));
            $cells === null ?: $this->count->add(Figures::PARENT, $group, $this->amount->of($this->legacy->of($cells)));
            if ($row->record !== null && $row->part !== Part::Merged && $row->part !== Part::Removed) {
                $value = $this->amount->ofRecord($row->record[(string) $this->count->total->parentField] ?? null);
                $this->count->add(Figures::PARENT_TARGET, $group, $value);
            }
        }
    }
}
