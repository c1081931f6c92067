<?php

namespace App\Reckoning;

use App\Models\Reckoning;
use Baggage\Core\Reconciling\ControlTotal;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\TotalKind;

/** One control total as it was counted. */
final readonly class TotalLine
{
    /**
     * @param  Figures|null  $figures  null where it could not be counted
     * @param  int  $groupsDiffer  groups that do not agree within the tolerance
     * @param  int  $groupsDoNotFoot  parents whose children do not add up in the target
     */
    private function __construct(
        public int $number,
        public ControlTotal $total,
        public ?Figures $figures,
        public int $groupsDiffer,
        public int $groupsDoNotFoot,
        public ?string $error,
    ) {
    }

    /** @return list<self> of a reckoning, in their order */
    public static function of(Reckoning $reckoning): array
    {
        return array_values(array_map(fn (array $f) => new self(
            (int) $f['number'],
            ControlTotal::fromPlan(['entity' => $f['entity']] + $f['total']),
            $f['figures'] === null ? null : Figures::fromArray($f['figures']),
            (int) $f['groups_differ'],
            (int) $f['groups_do_not_foot'],
            $f['error'],
        ), $reckoning->figures['totals'] ?? []));
    }

    /** What the legacy side comes to, where it stands or is kept. */
    public function legacy(): string
    {
        return $this->adds() ? $this->figures?->expected() ?? '' : (string) ($this->figures->extremes['legacy'] ?? '');
    }

    public function target(): string
    {
        return $this->adds() ? $this->figures?->sum(Figures::TARGET) ?? '' : (string) ($this->figures->extremes['target'] ?? '');
    }

    public function difference(): ?string
    {
        return $this->figures?->difference($this->total->kind);
    }

    /** Whether whole and groups agree, but for what is tolerated, and children add up to their parents. */
    public function holds(): bool
    {
        return $this->error === null && $this->figures !== null && $this->groupsDiffer === 0 && $this->groupsDoNotFoot === 0
            && $this->figures->holds($this->total->kind, $this->total->tolerance)
            && (! $this->total->kind->adds() || $this->figures->isConserved());
    }

    public function adds(): bool
    {
        return $this->total->kind->adds();
    }

    public function isMoney(): bool
    {
        return $this->total->kind === TotalKind::Sum;
    }
}
