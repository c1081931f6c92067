<?php

namespace App\Specification;

use App\Mapping\RuleBook;
use App\Models\Change;
use App\Models\ChangeKind;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Rule;
use App\Models\User;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;

/**
 * Changed rules, reasons and notes of fields.
 */
final readonly class RuleChanges
{
    /** Header → attribute of a rule. */
    private const PARTS = ['Rule' => 'expression', 'Left empty because' => 'empty_reason', 'Note' => 'note'];

    public function __construct(private RuleBook $book)
    {
    }

    /**
     * @param  array<int, array<string, string>>  $rows  by number
     * @return list<Change>
     */
    public function read(Migration $migration, array $rows): array
    {
        $loads = $migration->loads()->with(['rules', 'entity', 'extract'])->get()->keyBy('name');
        $found = [];
        foreach ($rows as $number => $row) {
            $load = $loads[$row['Load']] ?? null;
            if ($row['Load'] === '' && $row['Field'] === '') {
                continue;
            }
            $found = [...$found, ...($load !== null && isset($load->entity->described()->writable()[$row['Field']])
                ? $this->ofField($load, $row)
                : [(new Change(ChangeKind::Rule, "Rules, row $number", 'Field', '', "$row[Load], $row[Field]"))
                    ->but('There is no such load or field; the row is not read.')])];
        }

        return $found;
    }

    /**
     * @param  array<string, string>  $row
     * @return list<Change>
     */
    private function ofField(Load $load, array $row): array
    {
        $rule = $load->rules->firstWhere('field', $row['Field']);
        $found = [];
        foreach (self::PARTS as $header => $attribute) {
            [$from, $to] = [(string) $rule?->{$attribute}, str_replace("\r\n", "\n", $row[$header])];
            if (trim($from) !== trim($to)) {
                $data = ['load' => $load->id, 'field' => $row['Field'], 'attribute' => $attribute];
                $problem = $attribute === 'expression' ? $this->problem($load, $to) : null;
                $found[] = (new Change(ChangeKind::Rule, "$load->name, $row[Field]", $header, $from, $to, $data))->but($problem);
            }
        }

        return $found;
    }

    private function problem(Load $load, string $expression): ?string
    {
        try {
            $expression === '' || (new Compiler($load->extract->tidyColumns()))->compile($expression);

            return null;
        } catch (ExpressionError $e) {
            return $e->getMessage();
        }
    }

    /**
     * @return string|null why it was not made
     */
    public function make(Migration $migration, Change $change, ?User $user): ?string
    {
        $data = $change->data;
        $load = $migration->loads()->findOrFail($data['load']);
        $rule = Rule::query()->where('load_id', $load->id)->where('field', $data['field'])->first();
        if (trim((string) $rule?->{$data['attribute']}) !== trim($change->from)) {
            return Changes::STALE;
        }
        $as = [$data['attribute'] => $change->to === '' ? null : $change->to]
            + array_fill_keys(self::PARTS, null);
        foreach (array_diff(self::PARTS, [$data['attribute']]) as $attribute) {
            $as[$attribute] = $rule?->{$attribute};
        }
        try {
            $version = $rule->version ?? 0;
            $this->book->write($load, $data['field'], $version, $as['expression'], $as['empty_reason'], $as['note'], $user);
        } catch (ExpressionError|\RuntimeException $e) {
            return $e->getMessage();
        }

        return null;
    }
}
