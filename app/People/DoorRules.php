<?php

namespace App\People;

use App\Models\Audit;
use App\Models\Role;
use App\Models\User;
use App\Support\Meanwhile;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** What the administrator set about the door: how long a session lasts, and of whom a second factor is asked. */
final readonly class DoorRules
{
    private const NAME = 'door';

    public const ADMINISTRATOR = 'administrator';

    /** Minutes without a request: at least, at most. */
    public const IDLE = [1, 480];

    /** Hours in all: at least, at most. */
    public const LONGEST = [1, 24];

    /** @param  list<string>  $secondFactor  roles, and "administrator" */
    public function __construct(public int $idleMinutes = 30, public int $longestHours = 12, public array $secondFactor = [])
    {
    }

    /** @return list<string> of whom a second factor can be asked */
    public static function kinds(): array
    {
        return [self::ADMINISTRATOR, ...array_column(Role::cases(), 'value')];
    }

    public static function now(): self
    {
        return self::read(self::kept()->value('value'));
    }

    public static function kept(): Builder
    {
        return DB::table('settings')->where('name', self::NAME)->select('value');
    }

    /** @param  string|null  $kept  JSON of them; null where they are as delivered */
    public static function read(?string $kept): self
    {
        return new self(...array_intersect_key(json_decode((string) $kept, true) ?: [], get_class_vars(self::class)));
    }

    /**
     * @param  mixed  $shown  what a form showed of them
     *
     * @throws \App\Support\EditLost
     */
    public function keep(mixed $shown = null): void
    {
        DB::transaction(function () use ($shown) {
            self::kept()->lockForUpdate()->first();
            $before = self::now();
            Meanwhile::check($shown, ['rules' => $before->said()], ['rules' => $this->said()], ['rules' => 'Rules of sessions']);
            DB::table('settings')->upsert([['name' => self::NAME, 'value' => json_encode($this)]], ['name'], ['value']);
            if ($before != $this) {
                Audit::note(null, 'changed the rules of sessions', ['before' => $before->said(), 'after' => $this->said()]);
            }
        });
    }

    public function asksSecondFactorOf(User $user): bool
    {
        if ($this->secondFactor === []) {
            return false;
        }
        $is = array_map(fn (Role $role) => $role->value, array_values($user->roles()));

        return array_intersect($this->secondFactor, $user->is_administrator ? [self::ADMINISTRATOR, ...$is] : $is) !== [];
    }

    public function said(): string
    {
        $of = $this->secondFactor === [] ? 'nobody' : implode(', ', $this->secondFactor);

        return "$this->idleMinutes minutes idle, $this->longestHours hours at most, second factor of $of";
    }
}
