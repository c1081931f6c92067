<?php

namespace App\View;

use App\Models\Reckoning;
use App\Reckoning\TotalLine;
use App\Support\Amount;
use App\Support\When;
use Baggage\Core\Reconciling\ControlTotal;
use Baggage\Core\Reconciling\FieldTally;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\GroupBy;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Reconciling\TotalKind;
use Brick\Math\BigDecimal;

/** Amounts, and what is said of control totals and comparisons. Every view has it as $amounts. */
final class Amounts
{
    /** A decimal with its thousands apart; anything else as it is. */
    public static function said(?string $value): string
    {
        if ($value === null || preg_match('/^(-?)(\d+)(\.\d+)?$/D', $value, $m) !== 1) {
            return (string) $value;
        }

        return ($m[1] === '' ? '' : '−').strrev(implode(',', str_split(strrev($m[2]), 3))).($m[3] ?? '');
    }

    /** @return array<string, array{string, string}> part → its words, and the rows it opens */
    public function parts(): array
    {
        return [
            Part::AsIs->value => ['Stand as they are', 'standing=1'],
            Part::Older->value => ['Stand with older values', 'older=1'],
            Part::Merged->value => ['Merged into others', 'outcome=merged'],
            Part::Removed->value => ['Removed', 'outcome=removed'],
            Part::Excluded->value => ['Excluded', 'outcome=excluded'],
            Part::Held->value => ['Held', 'outcome=held'],
            Part::Rejected->value => ['Rejected', 'outcome=rejected'],
            Part::Waived->value => ['Left behind', 'outcome=waived'],
            Part::Pending->value => ['Pending', 'outcome=pending'],
        ];
    }

    public function bar(Figures $figures, TotalKind $kind): Bar
    {
        return Bar::ofMoney($figures, $kind);
    }

    /** Address of the rows of a part. */
    public function rowsOf(Page $page, ControlTotal $total, string $part): string
    {
        $load = $total->load === null ? null : $page->all()->firstWhere('name', $total->load);

        return $page->url('rows', $total->entity)."?$part".($load === null ? '' : "&load=$load->id");
    }

    /** @return array<string, string|null> fields of its form, of one about a single load */
    public function asForm(ControlTotal $total): array
    {
        $load = (string) $total->load;

        return [
            'name' => $total->name, 'entity' => $total->entity, 'load' => $load, 'kind' => $total->kind->value, 'field' => $total->field,
            'group_field' => $total->groupField, 'group_of' => $total->groupBy->value,
            "legacy[$load]" => $total->legacyOf($load), "group[$load]" => $total->groupOf($load),
        ];
    }

    /** @param  list<\stdClass>  $listed  rows of a group that are on the page */
    public function listed(?Part $part, bool $isListed, array $listed): string
    {
        $of = $part === null ? 'Its rows' : 'Its rows: '.lcfirst($this->parts()[$part->value][0]);

        return match (true) {
            ! $isListed => 'Its rows are not listed yet',
            $listed === [] => "$of, none",
            default => $of,
        };
    }

    public function groupedBy(ControlTotal $total): string
    {
        return match (true) {
            $total->groupField === null => '',
            $total->groupBy === GroupBy::Value => " by $total->groupField",
            default => " by {$total->groupBy->value} of $total->groupField",
        };
    }

    public function difference(TotalLine $line): string
    {
        return $line->figures === null ? '' : $this->off($line->figures, $line->total);
    }

    public function off(Figures $figures, ControlTotal $total): string
    {
        $difference = $figures->difference($total->kind);

        return match (true) {
            $difference === null => $figures->holds($total->kind, $total->tolerance) ? 'even' : 'differs',
            $difference === '0' => 'even',
            default => (str_starts_with($difference, '-') ? '' : '+').self::said($difference),
        };
    }

    public function happened(string $happened): string
    {
        return $happened === FieldTally::WRITTEN
            ? 'The target made something else of what it was given, as it was written.'
            : 'Changed in the target after it was written.';
    }

    public function differing(Figures $figures): string
    {
        return $figures->differ === 0
            ? 'No row says something else than its record'
            : Amount::of($figures->differ, 'row says', 'rows say').' something else than their record, the largest difference first';
    }

    /** @param  int|null  $groups  parents whose children do not add up; null where it is about one */
    public function foots(bool $foots, ?int $groups, Figures $figures): string
    {
        // Children of a legacy parent may have come to something else before anything was loaded.
        return match (true) {
            $foots => match ($figures->crossTarget()) {
                '0' => 'adds up',
                $figures->crossLegacy() => 'off as the legacy data',
                default => 'off within its tolerance',
            },
            $groups === null => 'does not add up',
            default => number_format($groups).' do not add up',
        };
    }

    /** One value less another, where both are numbers. */
    public function less(?string $is, ?string $was): string
    {
        if (! is_numeric($is ?? '0') || ! is_numeric($was ?? '0')) {
            return '';
        }
        $less = BigDecimal::of($is ?? '0')->minus($was ?? '0');

        return ($less->isPositive() ? '+' : '').self::said((string) $less);
    }

    /**
     * @param  list<TotalLine>  $lines
     * @param  array<TotalLine>  $off  those that do not hold
     */
    public function totals(array $lines, array $off, int $stated, ?Reckoning $reckoning): string
    {
        if ($reckoning === null) {
            return $stated === 0 ? 'Legacy amounts against those of the target.' : Amount::of($stated, 'total is', 'totals are').' stated.';
        }
        $of = Amount::of(count($lines), 'total');

        return ($off === [] ? "$of: every one of them holds." : "$of, of which ".Amount::of(count($off), 'does', 'do').' not hold.')
            .' Counted on '.When::said($reckoning->done_at, 'counted').'.';
    }

    public function comparison(?ComparedPage $compared, ?Reckoning $reckoning): string
    {
        if ($compared === null) {
            return 'Records read back from the target and held, field by field, against what was sent for them.';
        }
        $what = number_format($compared->looked).' of '.number_format($compared->of).' records were compared'
            .($compared->sample === null ? '' : ", drawn at random by seed $compared->seed");
        $found = $compared->wrong === 0
            ? 'every field says what was sent'
            : Amount::of($compared->wrong, 'value says', 'values say').' something else';
        $shown = $compared->sample === null || $compared->wrong > 0 ? '' : ' With '.round(100 * $compared->confidence)
            .' % confidence fewer than '.rtrim(rtrim(number_format(100 * $compared->shown, 3), '0'), '.').' % of all are wrong.';

        return "$what: $found. Compared on ".When::said($reckoning?->done_at, 'counted').".$shown";
    }
}
