<?php

namespace App\Mapping;

use App\Models\Audit;
use App\Models\Load;
use App\Models\Rule;
use App\Models\User;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Illuminate\Support\Facades\DB;

/** Keeps rules of a load; two people at one rule never overwrite each other unseen. */
final class RuleBook
{
    public function __construct(private readonly Waiting $waiting)
    {
    }

    /**
     * @param  int  $version  the version the person was looking at, 0 for a new rule
     *
     * @throws RuleConflict when somebody changed the rule since
     * @throws ExpressionError when the expression cannot be understood; nothing is kept then
     */
    public function write(
        Load $load,
        string $field,
        int $version,
        ?string $expression,
        ?string $emptyReason,
        ?string $note,
        ?User $user,
    ): void {
        if (! isset($load->entity->described()->writable()[$field])) {
            throw ExpressionError::noSuchField($load->entity->name, $field);
        }
        $expression = $expression === null || trim($expression) === '' ? null : trim($expression);
        if ($expression !== null) {
            (new Compiler($load->extract->tidyColumns()))->compile($expression);
        }
        $new = [
            'expression' => $expression,
            'empty_reason' => $expression === null ? $emptyReason : null,
            'note' => $note,
        ];

        if (DB::transaction(fn () => $this->keep($load, $field, $version, $new, $user))) {
            $this->waiting->changed($load->migration()->firstOrFail());
        }
    }

    /**
     * @param  array{expression: string|null, empty_reason: string|null, note: string|null}  $new
     * @return bool whether anything is otherwise now
     */
    private function keep(Load $load, string $field, int $version, array $new, ?User $user): bool
    {
        $rule = Rule::query()->where('load_id', $load->id)->where('field', $field)->lockForUpdate()->first();
        if (($rule->version ?? 0) !== $version) {
            return $rule !== null && $rule->expression === $new['expression'] ? false : throw new RuleConflict($rule);
        }
        if ($rule === null) {
            Rule::query()->create(['load_id' => $load->id, 'field' => $field, 'user_id' => $user?->id] + $new);
        } elseif ($rule->only(array_keys($new)) === $new) {
            return false;
        } else {
            $rule->fill($new + ['version' => $version + 1, 'user_id' => $user?->id])->save();
        }
        Audit::note($load->migration_id, "changed the rule of $load->name, $field", [
            'from' => $rule?->getOriginal('expression'),
            'to' => $new['expression'],
            'empty' => $new['empty_reason'],
        ]);
        $load->unsetRelation('rules');

        return true;
    }
}
