<?php

namespace App\Console\Commands;

use App\Models\Extract;
use App\Models\Membership;
use App\Models\Role;
use App\Models\Take;
use App\Models\User;
use App\Plans\Headless;
use Demo\Generator;
use Illuminate\Console\Command;
use Illuminate\Support\Str;
use Standins\HarbourOffice;

final class MakeDemo extends Command
{
    protected $signature = 'baggage:demo {--folder= : where its files go} {--scale=1}';

    protected $description = 'Make the demo: legacy files, the stand-in target, users, and the plan read in';

    private const USERS = [
        ['Ruth Aldous', 'lead@orrinsound.example', Role::Lead],
        ['Tomas Brekke', 'consultant@orrinsound.example', Role::Consultant],
        ['Mari Orre', 'reviewer@orrinsound.example', Role::Reviewer],
        ['Ines Vole', 'auditor@orrinsound.example', Role::Auditor],
    ];

    public function handle(Headless $headless): int
    {
        // Its files are ours.
        config(['baggage.apart.on' => false]);
        $folder = (string) ($this->option('folder') ?? base_path('demo/out'));
        (new Generator((float) $this->option('scale'), 1998, $folder))->write();
        $lines = '';
        $users = [];
        foreach (self::USERS as [$name, $email, $role]) {
            $password = Str::password(12, true, true, false);
            $users[] = [User::query()->updateOrCreate(
                ['email' => $email],
                ['name' => $name, 'password' => $password, 'is_administrator' => $role === Role::Lead],
            ), $role];
            $lines .= sprintf("  %-32s %-14s %s\n", $email, $password, $role->value);
        }
        file_put_contents("$folder/logins.txt", $lines);
        chmod("$folder/logins.txt", 0600);
        $plan = "$folder/plan.yaml";
        // The stand-in has to be there before its schema can be read.
        HarbourOffice::reset(StandIn::link()->pdo());
        $migration = $headless->import($plan);
        foreach ($users as [$user, $role]) {
            Membership::give($user, $migration, $role);
        }
        $headless->freeze($migration, $plan, $this->tell(...));
        $headless->study($migration);

        return 0;
    }

    private function tell(Extract $extract, Take $take): void
    {
        $this->line("  {$extract->source?->code} $extract->name: ".number_format((int) $take->rows).' rows');
    }
}
