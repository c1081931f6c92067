<?php

namespace App\Specification;

use App\Mapping\RuleBook;
use App\Models\CodeCrosswalk;
use App\Models\ColumnDecision;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Rule;
use App\Models\User;
use App\Reading\SheetLines;
use App\Rejects\Repairs;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Support\Collection;

/**
 * What a workbook or a sheet of codes that came back says differently from what is kept, one change for each cell.
 *
 * @phpstan-type Change array{
 *     kind: string, where: string, part: string, from: string, to: string, problem: string|null, state: string, data: array<string, mixed>,
 * }
 */
final class Changes
{
    /** @var list<Change> */
    private array $found = [];

    private function __construct(private readonly Migration $migration)
    {
    }

    /**
     * @return list<Change>
     *
     * @throws ReadingError
     */
    public static function ofWorkbook(Migration $migration, string $path, string $name): array
    {
        $changes = new self($migration);
        $changes->rules(SheetLines::of($path, $name, 'Rules', ['Load', 'Field', 'Rule', 'Left empty because', 'Note']));
        $changes->codes(
            SheetLines::of($path, $name, 'Codes', ['Crosswalk', 'Old value', 'New value', 'Decision', 'Note']),
            null,
        );
        $changes->columns(SheetLines::of($path, $name, 'Columns', ['Load', 'Column', 'Left behind because']));

        return $changes->found;
    }

    /**
     * @return list<Change>
     *
     * @throws ReadingError
     */
    public static function ofCodes(CodeCrosswalk $crosswalk, string $path, string $name): array
    {
        $changes = new self(Migration::query()->findOrFail($crosswalk->migration_id));
        $changes->codes(SheetLines::of($path, $name, null, ['Old value', 'New value']), $crosswalk);

        return $changes->found;
    }

    /** @param  array<string, mixed>  $data */
    private function add(
        string $kind,
        string $where,
        string $part,
        string $from,
        string $to,
        array $data,
        ?string $problem = null,
    ): void {
        $this->found[] = [
            'kind' => $kind,
            'where' => $where,
            'part' => $part,
            'from' => $from,
            'to' => $to,
            'problem' => $problem,
            'state' => $problem === null ? 'open' : 'void',
            'data' => $data,
        ];
    }

    /** @param  array<int, array<string, string>>  $rows */
    private function rules(array $rows): void
    {
        /** @var Collection<string, Load> $loads */
        $loads = $this->migration
            ->loads()
            ->with(['rules', 'entity', 'extract'])
            ->get()
            ->keyBy('name');
        foreach ($rows as $number => $row) {
            $load = $loads[$row['Load']] ?? null;
            if ($row['Load'] === '' && $row['Field'] === '') {
                continue;
            }
            if ($load === null || ! isset($load->entity->described()->writable()[$row['Field']])) {
                $this->add(
                    'rule',
                    "Rules, row $number",
                    'Field',
                    '',
                    "$row[Load], $row[Field]",
                    [],
                    'There is no such load or field; the row is not read.',
                );

                continue;
            }
            $rule = $load->rules->firstWhere('field', $row['Field']);
            foreach (
                ['Rule' => 'expression', 'Left empty because' => 'empty_reason', 'Note' => 'note'] as $header => $attribute
            ) {
                [$from, $to] = [(string) $rule?->{$attribute}, str_replace("\r\n", "\n", $row[$header])];
                if (trim($from) === trim($to)) {
                    continue;
                }
                $problem = null;
                if ($attribute === 'expression' && $to !== '') {
                    try {
                        (new Compiler($load->extract->tidyColumns()))->compile($to);
                    } catch (ExpressionError $e) {
                        $problem = $e->getMessage();
                    }
                }
                $this->add(
                    'rule',
                    "$load->name, $row[Field]",
                    $header,
                    $from,
                    $to,
                    ['load' => $load->id, 'field' => $row['Field'], 'attribute' => $attribute],
                    $problem,
                );
            }
        }
    }

    /** @param  array<int, array<string, string>>  $rows */
    private function codes(array $rows, ?CodeCrosswalk $only): void
    {
        $crosswalks = $this->migration->codeCrosswalks()->with('entries')->get()->keyBy('name');
        $seen = [];
        foreach ($rows as $number => $row) {
            $name = $only === null ? $row['Crosswalk'] : $only->name;
            $old = trim($row['Old value']);
            if ($old === '') {
                continue;
            }
            $crosswalk = $crosswalks[$name] ?? null;
            if ($crosswalk === null) {
                $this->add(
                    'code',
                    "Codes, row $number",
                    'Crosswalk',
                    '',
                    $name,
                    [],
                    "There is no code crosswalk \"$name\".",
                );

                continue;
            }
            $entry = $crosswalk->entries->firstWhere('old_value', $old);
            $decision = strtolower($row['Decision'] ?? '');
            $was = $entry === null
                ? ''
                : ($entry->decision === 'reject'
                    ? 'reject'
                    : ($entry->new_value === null
                        ? 'empty'
                        : "value $entry->new_value"));
            $new = $row['New value'];
            // A new value says by itself that it is one; the decision is for the two that have none.
            $is = match (true) {
                $new !== ''
                    && in_array($decision, ['', 'value', 'empty', 'reject'], true)
                    && ! ($decision === 'reject' && $was !== 'reject')
                    && ! ($decision === 'empty' && $was !== 'empty') => "value $new",
                in_array($decision, ['empty', 'reject'], true) => $decision,
                default => '',
            };
            $problem = match (true) {
                isset($seen[$name][$old]) && $seen[$name][$old]['is'] !== $is => "\"$old\" has two new values, "
                    ."here and in row {$seen[$name][$old]['row']}. One old value becomes one new one.",
                $decision !== '' && ! in_array($decision, ['value', 'empty', 'reject'], true) => 'A decision is '
                    ."value, empty or reject, not \"$decision\".",
                mb_strlen($old) > 190 || mb_strlen($new) > 190 => 'Longer than 190 characters.',
                default => null,
            };
            $first = ! isset($seen[$name][$old]);
            $seen[$name][$old] ??= ['is' => $is, 'row' => $number];
            if ($problem !== null || ($is !== $was && $is !== '' && $first)) {
                $this->add(
                    'code',
                    "$name, $old",
                    'New value',
                    $was,
                    $is,
                    ['crosswalk' => $crosswalk->id, 'old' => $old, 'is' => $is],
                    $problem,
                );
            }
            if (
                $first
                && isset($row['Note'])
                && trim($row['Note']) !== trim((string) $entry?->note)
                && ($entry !== null || $is !== '')
            ) {
                $this->add('code', "$name, $old", 'Note', (string) $entry?->note, $row['Note'], [
                    'crosswalk' => $crosswalk->id,
                    'old' => $old,
                    'note' => $row['Note'],
                ]);
            }
        }
    }

    /** @param  array<int, array<string, string>>  $rows */
    private function columns(array $rows): void
    {
        $loads = $this->migration->loads()->with('extract')->get()->keyBy('name');
        foreach ($rows as $number => $row) {
            $load = $loads[$row['Load']] ?? null;
            if ($load === null) {
                continue;
            }
            $column = $load->extract->tidyColumns()->find($row['Column']);
            $from = (string) ColumnDecision::query()
                ->where('extract_id', $load->extract_id)
                ->where('header', $row['Column'])
                ->value('reason');
            if ($from !== $row['Left behind because']) {
                $this->add(
                    'column',
                    "{$load->extract->name}, $row[Column]",
                    'Left behind because',
                    $from,
                    $row['Left behind because'],
                    ['extract' => $load->extract_id, 'header' => $row['Column']],
                    $column === null ? "Row $number: the extract has no such column." : null,
                );
            }
        }
    }

    /**
     * Makes one change, if what it changes is still what it was.
     *
     * @param  Change  $change
     * @return string|null why it was not made
     */
    public static function make(
        Migration $migration,
        array $change,
        RuleBook $book,
        Repairs $repairs,
        ?User $user,
    ): ?string {
        $data = $change['data'];
        if ($change['kind'] === 'rule') {
            $load = $migration->loads()->findOrFail($data['load']);
            $rule = Rule::query()->where('load_id', $load->id)->where('field', $data['field'])->first();
            if (trim((string) $rule?->{$data['attribute']}) !== trim($change['from'])) {
                return 'It has been changed here since the list was made.';
            }
            $as = [$data['attribute'] => $change['to'] === '' ? null : $change['to']] + [
                'expression' => $rule?->expression,
                'empty_reason' => $rule?->empty_reason,
                'note' => $rule?->note,
            ];
            try {
                $book->write(
                    $load,
                    $data['field'],
                    $rule->version ?? 0,
                    $as['expression'],
                    $as['empty_reason'],
                    $as['note'],
                    $user,
                );
            } catch (ExpressionError|\RuntimeException $e) {
                return $e->getMessage();
            }

            return null;
        }
        if ($change['kind'] === 'code') {
            $crosswalk = $migration->codeCrosswalks()->findOrFail($data['crosswalk']);
            if (array_key_exists('note', $data)) {
                $crosswalk
                    ->entries()
                    ->where('old_value', $data['old'])
                    ->update(['note' => $data['note'] === '' ? null : $data['note']]);

                return null;
            }
            $entry = $crosswalk->entries()->where('old_value', $data['old'])->first();
            $now = $entry === null
                ? ''
                : ($entry->decision === 'reject'
                    ? 'reject'
                    : ($entry->new_value === null
                        ? 'empty'
                        : "value $entry->new_value"));
            if ($now !== $change['from']) {
                return 'It has been changed here since the list was made.';
            }
            $repairs->mapCode(
                $migration,
                $crosswalk,
                $data['old'],
                str_starts_with($data['is'], 'value ') ? substr($data['is'], 6) : null,
                $data['is'] === 'reject',
            );

            return null;
        }
        $decision = ColumnDecision::query()->where('extract_id', $data['extract'])->where('header', $data['header']);
        if ((string) $decision->value('reason') !== $change['from']) {
            return 'It has been changed here since the list was made.';
        }
        $change['to'] === ''
            ? $decision->delete()
            : ColumnDecision::query()->updateOrCreate(
                ['extract_id' => $data['extract'], 'header' => $data['header']],
                ['reason' => $change['to'], 'user_id' => $user?->id],
            );

        return null;
    }
}
