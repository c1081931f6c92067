<?php

namespace App\Specification;

use App\Catalogue\CodeColumn;
use App\Catalogue\CodeUse;
use App\Catalogue\CodeValue;
use App\Catalogue\Definitions;
use App\Mapping\RuleSheet;
use App\Mapping\Shelf;
use App\Models\ColumnDecision;
use App\Models\Load;
use App\Models\Migration;
use App\Models\RuleVersion;
use App\Plans\PlanExporter;
use App\Staging\StagedRows;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Reading\Column;
use Baggage\Core\Rows\Cause;

/** All that a client signs of a mapping: of one load, or of the whole migration. */
final class Specification
{
    public readonly Definitions $definitions;

    public function __construct(public readonly Migration $migration, public readonly ?Load $only = null)
    {
        $this->definitions = new Definitions($migration);
    }

    /** @return array{number: int, hash: string} number of the latest change of a rule, and the beginning of the plan's SHA-256 */
    public function version(): array
    {
        return [
            'number' => (int) RuleVersion::query()
                ->whereIn('load_id', $this->migration->loads()->select('id'))
                ->max('id'),
            'hash' => substr(
                hash('sha256', (string) json_encode((new PlanExporter)->export($this->migration))),
                0,
                12,
            ),
        ];
    }

    /** @return list<Load> in load order */
    public function loads(): array
    {
        return $this->definitions
            ->loads()
            ->filter(fn (Load $l) => $this->only === null || $l->id === $this->only->id)
            ->values()
            ->all();
    }

    /**
     * @return list<array{
     *     load: Load, policy: string, sample: int|null,
     *     fields: list<array{
     *         name: string, type: string, rule: string|null, empty: string|null, note: string|null, before: string, after: string,
     *         required: bool,
     *     }>,
     *     left: array<string, string>, undecided: list<string>}>
     */
    public function parts(): array
    {
        $loads = collect($this->loads());
        $undecided = (new Shelf($this->definitions))->allUndecided();
        $first = StagedRows::firstOf(array_values($loads->pluck('extract.take_id')->filter()->unique()->all()));
        $decided = ColumnDecision::query()
            ->whereIn('extract_id', $loads->pluck('extract_id'))
            ->orderBy('id')
            ->get(['extract_id', 'header', 'reason'])
            ->groupBy('extract_id');
        $parts = [];
        foreach ($loads as $load) {
            $row = $first[(int) $load->extract->take_id] ?? null;
            $sheet = RuleSheet::on($this->definitions, $load, $row === null ? [] : [1 => $row]);
            $fields = [];
            foreach ($sheet->lines(null) as $line) {
                $sample = $line->samples[0] ?? null;
                $fields[] = [
                    'name' => $line->field->name,
                    'type' => $line->field->describe().($line->isUnique() ? ', unique' : ''),
                    'rule' => $line->rule?->expression,
                    'empty' => $line->rule?->empty_reason,
                    'note' => $line->rule?->note,
                    'required' => $line->field->required,
                    'before' => implode(' | ', array_map(fn ($b) => (string) $b, $sample['before'] ?? [])),
                    'after' => $sample === null ? '' : self::say($sample['after']),
                ];
            }
            $parts[] = [
                'load' => $load,
                'policy' => $load->policy->label(),
                'sample' => array_key_first($sheet->sample),
                'fields' => $fields,
                'left' => $decided->get($load->extract_id)?->pluck('reason', 'header')->all() ?? [],
                'undecided' => array_map(fn (Column $c) => $c->header, $undecided[$load->extract_id] ?? []),
            ];
        }

        return $parts;
    }

    /** @return array<string, string|null> extract no load reads → why, null where that is not decided; of the whole migration only */
    public function unread(): array
    {
        $unread = [];
        foreach ($this->only === null ? (new Shelf($this->definitions))->unread() : [] as $extract) {
            $unread["{$extract->source?->code}/$extract->name"] = $extract->not_loaded;
        }

        return $unread;
    }

    /**
     * Those that a rule of the part uses.
     *
     * @return list<array{
     *     name: string, note: string|null, otherwise: Otherwise, value: string|null, uses: string,
     *     values: list<CodeValue>,
     * }>
     */
    public function codes(): array
    {
        $use = CodeUse::by($this->definitions);
        $codes = [];
        foreach ($this->migration->codeCrosswalks()->with('entries')->orderBy('name')->get() as $crosswalk) {
            $uses = array_filter(
                $use->of($crosswalk->name),
                fn (CodeColumn $u) => $this->only === null || $u->load === $this->only->id,
            );
            if ($uses !== [] || $this->only === null) {
                $codes[] = [
                    'name' => $crosswalk->name,
                    'note' => $crosswalk->note,
                    'otherwise' => $crosswalk->otherwise,
                    'value' => $crosswalk->otherwise_value,
                    'uses' => implode('; ', array_map(fn (CodeColumn $u) => $u->label(), $uses)),
                    'values' => $use->values($crosswalk),
                ];
            }
        }

        return $codes;
    }

    private static function say(mixed $value): string
    {
        return match (true) {
            $value instanceof Cause => 'rejected: '.lcfirst($value->message),
            $value instanceof ParentKey => "$value->space $value",
            default => (string) ($value ?? 'none'),
        };
    }
}
