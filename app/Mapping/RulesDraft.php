<?php

namespace App\Mapping;

use App\Models\Load;
use App\Models\User;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\RulesText;
use Illuminate\Support\Facades\DB;

/** All rules of a load written as text, held against those that are kept. */
final class RulesDraft
{
    /** @var list<array{field: string, line: int, from: string, to: string}> */
    public array $changes = [];

    /** @var list<array{line: int, message: string}> */
    public array $problems = [];

    /** @param  array<string, array{rule: string|null, empty: string|null, line: int}>  $rules */
    private function __construct(private readonly Load $load, private readonly array $rules)
    {
    }

    public static function of(Load $load, string $text): self
    {
        ['rules' => $rules, 'problems' => $problems] = RulesText::parse($text);
        $draft = new self($load, $rules);
        $draft->problems = $problems;
        $draft->compare();

        return $draft;
    }

    private function compare(): void
    {
        $load = $this->load;
        $fields = $load->entity->described()->writable();
        $compiler = new Compiler($load->extract->tidyColumns());
        $now = self::rules($load);
        foreach ($this->rules as $field => $r) {
            if (! isset($fields[$field])) {
                $this->problems[] = [
                    'line' => $r['line'],
                    'message' => "{$load->entity->name} has no field \"$field\" that a rule can fill.",
                ];

                continue;
            }
            try {
                $r['rule'] === null ?: $compiler->compile($r['rule']);
            } catch (ExpressionError $e) {
                $this->problems[] = ['line' => $r['line'], 'message' => "$field: {$e->getMessage()}"];
            }
            [$from, $to] = [self::say($now[$field] ?? null), self::say($r)];
            if ($from !== $to) {
                $this->changes[] = ['field' => $field, 'line' => $r['line'], 'from' => $from, 'to' => $to];
            }
        }
        usort($this->problems, fn ($a, $b) => $a['line'] <=> $b['line']);
    }

    /** @return array<string, array{rule: string|null, empty: string|null}> as kept, a line for every field that can be filled */
    public static function rules(Load $load): array
    {
        $kept = $load->rules()->get()->keyBy('field');
        $rules = [];
        foreach (array_keys($load->entity->described()->writable()) as $field) {
            $rules[$field] = [
                'rule' => $kept[$field]->expression ?? null,
                'empty' => $kept[$field]->empty_reason ?? null,
            ];
        }

        return $rules;
    }

    /** @param  array{rule: string|null, empty: string|null}|null  $r */
    private static function say(?array $r): string
    {
        return $r['rule'] ?? (isset($r['empty']) ? "left empty: $r[empty]" : 'no rule');
    }

    /**
     * Keeps all of it or nothing.
     *
     * @throws RuleConflict|ExpressionError
     */
    public function keep(RuleBook $book, ?User $user): void
    {
        DB::transaction(function () use ($book, $user) {
            $kept = $this->load->rules()->get()->keyBy('field');
            foreach ($this->changes as $change) {
                $rule = $this->rules[$change['field']];
                $book->write(
                    $this->load,
                    $change['field'],
                    $kept[$change['field']]->version ?? 0,
                    $rule['rule'],
                    $rule['empty'],
                    $kept[$change['field']]->note ?? null,
                    $user,
                );
            }
        });
    }
}
