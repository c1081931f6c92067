<?php

namespace Tests\Feature;

use App\Models\Answer;
use App\Models\ChangeList;
use App\Models\ClientFile;
use App\Models\CodeVersion;
use App\Models\ColumnReference;
use App\Models\Connection;
use App\Models\ControlTotal;
use App\Models\DryRun;
use App\Models\Finding;
use App\Models\Load;
use App\Models\LoginSession;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Parameter;
use App\Models\Repair;
use App\Models\Right;
use App\Models\Role;
use App\Models\RuleVersion;
use App\Models\User;
use App\Models\Work;
use App\Models\WorkKind;
use App\Models\WorkState;
use Baggage\Core\Writing\Reference;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\Route;
use Tests\TestCase;

/** Every route, for every role, for members and others, with things of the migration and of another: from the list of routes itself. */
final class RightsTest extends TestCase
{
    /** Which right each route asks first. A route that is not here fails. */
    private const RIGHTS = [
        'viewAny' => [
            'GET account',
            'POST account',
            'POST account/password',
            'POST account/others',
            'POST account/confirm',
            'DELETE account/sessions/{session}',
            'GET account/second',
            'POST account/second',
            'POST account/second/begin',
            'POST account/second/codes',
            'DELETE account/second',
            'GET /',
        ],
        'create' => [
            'POST migrations',
            'POST plans',
        ],
        'administer' => [
            'GET accounts',
            'POST accounts',
            'POST accounts/appoint',
            'POST accounts/{user}',
            'GET sessions',
            'POST sessions',
            'DELETE sessions/{session}',
            'GET log',
        ],
        'view' => [
            'GET m/{migration}/plan',
            'GET m/{migration}/people',
            'GET m/{migration}/draft',
            'PUT m/{migration}/draft',
            'GET m/{migration}/trace',
            'GET m/{migration}/rows/{load}/{row}',
            'GET m/{migration}/rows/{load}/{row}/family',
            'GET m/{migration}/sources/references',
            'GET m/{migration}/sources/extracts/{extract}',
            'GET m/{migration}/sources/extracts/{extract}/columns/{position}',
            'GET m/{migration}/sources/extracts/{extract}/findings/{finding}',
            'GET m/{migration}/sources/takes/{take}',
            'GET m/{migration}/connections',
            'GET m/{migration}/target/tables',
            'POST m/{migration}/target/count',
            'GET m/{migration}/mapping/loads/{load}/check',
            'GET m/{migration}/mapping/loads/{load}/check/{cause}',
            'GET m/{migration}/mapping/loads/{load}/history',
            'GET m/{migration}/mapping/loads/{load}/news',
            'GET m/{migration}/mapping/loads/{load}/text',
            'POST m/{migration}/mapping/loads/{load}/text/look',
            'GET m/{migration}/mapping/loads/{load}/record/{row}',
            'GET m/{migration}/mapping/document',
            'GET m/{migration}/mapping/document.pdf',
            'GET m/{migration}/mapping/document.xlsx',
            'GET m/{migration}/changes/{list}',
            'POST m/{migration}/mapping/loads/{load}/fields/{field}/preview',
            'GET m/{migration}/mapping/loads/{load}/fields/{field}',
            'GET m/{migration}/crosswalks/codes/{crosswalk}/history',
            'GET m/{migration}/crosswalks/codes/{crosswalk}/sheet',
            'GET m/{migration}/dry-runs/{dryRun}',
            'GET m/{migration}/rejects/files/{file}',
            'GET m/{migration}/rejects/files/{file}/fetch',
            'GET m/{migration}/rejects/answers/{answer}',
            'POST m/{migration}/rejects/annotated',
            'GET m/{migration}/rows/{load}/{row}/beside/{other}/{otherRow}',
            'GET m/{migration}/works/{work}',
            'GET m/{migration}/works/{work}/file',
            'POST m/{migration}/works/{work}/stop',
            'POST m/{migration}/reconciliation/count',
            'POST m/{migration}/reconciliation/reckon',
            'POST m/{migration}/reconciliation/differences',
            'GET m/{migration}/totals/of/{number}',
            'POST m/{migration}/totals/of/{number}/rows',
            'GET m/{migration}/compared/{load}',
            'POST m/{migration}/runs/look',
            'GET m/{migration}/runs/strip',
            'GET m/{migration}/gaps/{entity?}',
            'POST m/{migration}/rows/{entity?}',
            'GET m/{migration}/rows/{entity?}',
            'GET m/{migration}/sources/{entity?}',
            'GET m/{migration}/target/{entity?}',
            'GET m/{migration}/mapping/{entity?}',
            'GET m/{migration}/crosswalks/{entity?}',
            'GET m/{migration}/order/{entity?}',
            'GET m/{migration}/runs/{entity?}',
            'GET m/{migration}/rejects/{entity?}',
            'GET m/{migration}/totals/{entity?}',
            'GET m/{migration}/totals-stated/{entity?}',
            'GET m/{migration}/comparison/{entity?}',
            'GET m/{migration}/reconciliation/{entity?}',
        ],
        'work' => [
            'POST m/{migration}/sources/extracts/{extract}/covering',
            'POST m/{migration}/sources/takes/{take}/stated',
            'GET m/{migration}/total',
            'POST m/{migration}/total',
            'POST m/{migration}/total/try',
            'GET m/{migration}/total/{total}',
            'PUT m/{migration}/total/{total}',
            'DELETE m/{migration}/total/{total}',
            'POST m/{migration}/sources',
            'GET m/{migration}/rejects/loads/{load}/default/{field}',
            'POST m/{migration}/rejects/loads/{load}/default/{field}',
            'GET m/{migration}/mend/{kind}/{id}',
            'POST m/{migration}/mend/{kind}/{id}',
            'POST m/{migration}/sources/upload',
            'GET m/{migration}/sources/upload/{upload}',
            'POST m/{migration}/sources/upload/{upload}',
            'DELETE m/{migration}/sources/upload/{upload}',
            'GET m/{migration}/sources/files',
            'GET m/{migration}/sources/feeds',
            'POST m/{migration}/sources/feeds',
            'POST m/{migration}/sources/extracts/{extract}/multiply',
            'POST m/{migration}/sources/references/{reference}',
            'POST m/{migration}/sources/extracts/{extract}/again',
            'POST m/{migration}/sources/extracts/{extract}/row-key',
            'POST m/{migration}/sources/{source}/connections',
            'GET m/{migration}/sources/connections/{connection}',
            'GET m/{migration}/sources/connections/{connection}/table',
            'POST m/{migration}/sources/connections/{connection}/freeze',
            'POST m/{migration}/sources/takes/{take}/stop',
            'POST m/{migration}/connections',
            'POST m/{migration}/connections/{target}',
            'POST m/{migration}/connections/{target}/try',
            'POST m/{migration}/target/describe',
            'POST m/{migration}/target/tables',
            'POST m/{migration}/target/read',
            'POST m/{migration}/mapping/loads',
            'POST m/{migration}/mapping/loads/{load}',
            'POST m/{migration}/mapping/loads/{load}/check',
            'POST m/{migration}/mapping/loads/{load}/check/stop',
            'POST m/{migration}/mapping/loads/{load}/history/{version}',
            'POST m/{migration}/mapping/loads/{load}/undo',
            'POST m/{migration}/mapping/loads/{load}/text',
            'POST m/{migration}/mapping/parameters',
            'POST m/{migration}/mapping/document',
            'POST m/{migration}/changes/{list}',
            'POST m/{migration}/mapping/loads/{load}/suggested',
            'POST m/{migration}/mapping/loads/{load}/map',
            'POST m/{migration}/mapping/loads/{load}/fields/{field}/crosswalk',
            'PUT m/{migration}/mapping/loads/{load}/fields/{field}',
            'POST m/{migration}/mapping/extracts/{extract}/not-loaded',
            'POST m/{migration}/mapping/extracts/{extract}/columns',
            'POST m/{migration}/crosswalks/codes',
            'POST m/{migration}/crosswalks/codes/{crosswalk}/otherwise',
            'POST m/{migration}/crosswalks/codes/{crosswalk}/sheet',
            'POST m/{migration}/runs/describe',
            'POST m/{migration}/dry-runs',
            'POST m/{migration}/runs/rounds',
            'POST m/{migration}/runs/end',
            'POST m/{migration}/runs/again',
            'POST m/{migration}/runs/delta',
            'POST m/{migration}/passes/{pass}/pause',
            'POST m/{migration}/passes/{pass}/end',
            'POST m/{migration}/passes/{pass}/resume',
            'POST m/{migration}/passes/{pass}/back-out',
        ],
        'repair' => [
            'GET m/{migration}/to-answer',
            'POST m/{migration}/to-answer',
            'POST m/{migration}/rejects/files',
            'POST m/{migration}/rejects/files/{file}',
            'POST m/{migration}/rejects/answers',
            'POST m/{migration}/rejects/answers/{answer}/columns',
            'POST m/{migration}/rejects/answers/{answer}/try',
            'POST m/{migration}/rejects/answers/{answer}/leave',
            'POST m/{migration}/sources/extracts/{extract}/findings',
            'POST m/{migration}/crosswalks/codes/{crosswalk}',
            'POST m/{migration}/crosswalks/codes/{crosswalk}/table',
            'POST m/{migration}/crosswalks/codes/{crosswalk}/suggested',
            'POST m/{migration}/crosswalks/codes/{crosswalk}/history/{code}',
            'POST m/{migration}/rejects/loads/{load}/give',
            'POST m/{migration}/rejects/repairs/{repair}/undo',
            'POST m/{migration}/rejects/loads/{load}/try',
            'POST m/{migration}/dry-runs/{dryRun}/keep',
            'POST m/{migration}/dry-runs/{dryRun}/stop',
            'POST m/{migration}/rejects/loads/{load}/take-back',
            'POST m/{migration}/rejects/loads/{load}/ask',
            'POST m/{migration}/compared/{load}/again',
            'POST m/{migration}/rejects/loads/{load}/references',
            'GET m/{migration}/rejects/loads/{load}/rows/{row}/whole',
            'POST m/{migration}/rejects/waivers/confirm',
            'POST m/{migration}/rejects/corrections',
        ],
        'delete' => [
            'DELETE m/{migration}/sources/takes/{take}/file',
            'DELETE m/{migration}/mend/{kind}/{id}',
            'DELETE m/{migration}/connections/{target}',
            'DELETE m/{migration}/mapping/parameters/{parameter}',
        ],
        'accept' => [
            'POST m/{migration}/runs/records',
        ],
        'invite' => [
            'POST m/{migration}/people',
            'POST m/{migration}/people/{user}',
            'POST m/{migration}/people/{user}/link',
            'DELETE m/{migration}/people/{user}',
        ],
        'audit' => [
            'GET m/{migration}/log',
        ],
    ];

    /** For everybody who is not logged in. */
    private const GUESTS = [
        'GET login',
        'POST login',
        'GET login/second',
        'POST login/second',
        'GET join/{token}',
        'POST join/{token}',
    ];

    private Migration $migration;

    /** @var array<string, int|string|null> what stands for each part of an address */
    private array $fill;

    private ?string $asked = null;

    private bool $denies = false;

    protected function setUp(): void
    {
        parent::setUp();
        [$this->migration] = $this->loadedDemo(self::smallDemo());
        $this->fill = $this->things($this->migration);
    }

    /** @return array<string, int|string|null> */
    private function things(Migration $migration): array
    {
        $load = Load::query()->firstOrFail();

        return [
            'migration' => $migration->id,
            'load' => $load->id,
            'extract' => $load->extract_id,
            'take' => $load->extract->take_id,
            'pass' => 1,
            'crosswalk' => 1,
            'code' => CodeVersion::query()->create(['code_crosswalk_id' => 1, 'old_value' => 'x'])->id,
            'row' => 1,
            'field' => 'code',
            'source' => $load->extract->source_id,
            'position' => 0,
            'cause' => 1,
            'finding' => Finding::query()->where('extract_id', $load->extract_id)->value('id') ?? $this->finding($load),
            'reference' => $this->reference($load),
            'connection' => $this->connection($load),
            'target' => $migration->targets()->value('id'),
            'upload' => '7b4d9d0e-5f7f-4a3e-9f55-3a3a3a3a3a3a',
            'entity' => null,
            'user' => $this->user(Role::Auditor)->id,
            'session' => LoginSession::query()->create(['user_id' => $this->user(Role::Auditor)->id, 'token' => random_bytes(32)])->id,
            'version' => RuleVersion::query()->where('load_id', $load->id)->value('id'),
            'parameter' => Parameter::query()->value('id'),
            'other' => $load->id,
            'otherRow' => 1,
            'kind' => 'load',
            'id' => $load->id,
            'repair' => Repair::query()->create(['migration_id' => $migration->id, 'kind' => 'stay', 'title' => 'x', 'rows' => 1])->id,
            'dryRun' => $this->dryRun($migration, $load),
            'file' => $this->file($load)->id,
            'answer' => $this->answer($load),
            'number' => 1, 'total' => $this->total($load),
            'work' => Work::query()->create([
                'migration_id' => $migration->id,
                'kind' => WorkKind::Rows,
                'title' => 'x',
                'given' => [],
                'state' => WorkState::Done,
            ])->id,
            'list' => ChangeList::query()->create([
                'migration_id' => $migration->id,
                'kind' => 'mapping',
                'file_name' => 'x',
                'changes' => [],
            ])->id,
        ];
    }

    private function total(Load $load): int
    {
        return ControlTotal::query()->create([
            'migration_id' => $load->migration_id, 'entity_id' => $load->entity_id, 'name' => 'x', 'position' => 1,
            'definition' => ['field' => 'code', 'legacy' => 'code'],
        ])->id;
    }

    private function finding(Load $load): int
    {
        return Finding::query()->create([
            'extract_id' => $load->extract_id,
            'take_id' => $load->extract->take_id,
            'code' => 'x',
            'n' => 0,
            'message' => 'x',
            'rows' => [],
        ])->id;
    }

    private function file(Load $load): ClientFile
    {
        return ClientFile::query()->create([
            'migration_id' => $load->migration_id, 'round_id' => 1, 'code' => Reference::code(), 'title' => 'x', 'format' => 'csv',
            'words' => 'en', 'loads' => [$load->id], 'decision' => 0,
        ]);
    }

    private function answer(Load $load): int
    {
        return Answer::query()->create([
            'migration_id' => $load->migration_id, 'round_id' => 1, 'file_id' => $this->file($load)->id, 'name' => 'x', 'state' => 'listed',
        ])->id;
    }

    private function dryRun(Migration $migration, Load $load): int
    {
        return DryRun::query()->create([
            'migration_id' => $migration->id, 'target_id' => $migration->targets()->value('id'), 'kind' => 'repair', 'title' => 'x',
            'given' => ['proposed' => ['kind' => 'stay', 'load' => $load->id, 'row' => 1]], 'decision' => 0, 'state' => 'done',
            'found' => ['tried' => 0, 'same' => 0, 'rows' => [], 'causes' => [], 'unforeseen' => [], 'failed' => []],
        ])->id;
    }

    private function reference(Load $load): int
    {
        return ColumnReference::query()->create([
            'migration_id' => $load->migration_id,
            'extract_id' => $load->extract_id,
            'columns' => ['HARB'],
            'parent_extract_id' => $load->extract_id,
            'parent_columns' => ['HARB'],
            'values_total' => 0,
            'values_found' => 0,
            'orphan_rows' => 0,
        ])->id;
    }

    private function connection(Load $load): int
    {
        return Connection::query()->create([
            'source_id' => $load->extract->source_id,
            'name' => 'x',
            'driver' => 'mysql',
            'host' => '127.0.0.1',
            'port' => '9',
            'database' => 'x',
        ])->id;
    }

    /** @return array<string, string> route → right */
    private static function rights(): array
    {
        $all = [];
        foreach (self::RIGHTS as $right => $routes) {
            $all += array_fill_keys($routes, $right);
        }

        return $all;
    }

    /** @return array<string, array{string, string}> "METHOD uri" => its method, and an address of it */
    private function routes(): array
    {
        $all = [];
        foreach (Route::getRoutes() as $route) {
            $filled = preg_replace_callback('/\{(\w+)\??\}/', fn ($m) => (string) ($this->fill[$m[1]] ?? ''), $route->uri());
            $address = '/'.ltrim((string) $filled, '/');
            foreach (array_diff($route->methods(), ['HEAD']) as $method) {
                if (! in_array("$method {$route->uri()}", self::GUESTS, true)) {
                    $all["$method {$route->uri()}"] = [$method, rtrim($address, '/') ?: '/'];
                }
            }
        }

        return $all;
    }

    public function test_every_route_needs_a_login_and_asks_for_the_right_it_is_said_to(): void
    {
        $asked = [];
        Gate::before(function (User $user, string $ability) {
            $this->asked ??= $ability;

            return $this->denies ? false : null;
        });
        foreach ($this->routes() as $route => [$method, $address]) {
            auth()->logout();
            $this->call($method, $address)->assertRedirect('/login');
            if ($route !== 'POST logout') {
                [$this->asked, $this->denies] = [null, true];
                $answer = $this->actingAs($this->user(Role::Lead))->call($method, $address);
                self::assertSame(403, $answer->status(), "$route, which asked $this->asked");
                $this->denies = false;
                $asked[$route] = $this->asked;
            }
        }
        self::assertEquals(self::rights(), $asked);
    }

    public function test_every_role_gets_what_the_table_gives_it(): void
    {
        foreach (Role::cases() as $role) {
            $this->actingAs($this->user($role));
            foreach ($this->routes() as $route => [$method, $address]) {
                $right = Right::tryFrom(self::rights()[$route] ?? '');
                if ($right === null) {
                    continue;
                }
                $may = $role->may($right);
                self::assertSame($may, Gate::allows($right->value, $this->migration), "$role->value: $right->value");
                // What is refused changes nothing; what only shows something can be tried, by those who may do most and least.
                $isShown = $method === 'GET' && in_array($role, [Role::Lead, Role::Auditor], true);
                if (! $may || $isShown) {
                    $status = $this->call($method, $address)->getStatusCode();
                    self::assertSame(! $may, $status === 403, "$role->value, $route: $status");
                    self::assertLessThan(500, $status, "$role->value, $route");
                }
            }
        }
    }

    public function test_nothing_of_a_migration_is_there_for_who_is_no_member(): void
    {
        $other = Migration::query()->create(['name' => 'Theirs', 'target_name' => 'x', 'installation' => 'other']);
        $stranger = User::query()->create(['name' => 'S', 'email' => 's@example.test', 'password' => 'x', 'is_administrator' => true]);
        Membership::give($stranger, $other, Role::Lead);
        $this->actingAs($stranger);
        foreach ($this->routes() as $route => [$method, $address]) {
            if (str_contains($route, ' m/{migration}')) {
                self::assertSame(404, $this->call($method, $address)->getStatusCode(), "$route for a stranger");
                // The same things under the number of one's own migration.
                $own = preg_replace('#^/m/\d+#', "/m/$other->id", $address);
                $isOfAnother = preg_match('/\{(?!migration|entity\?|upload|position|row|cause|field|user)\w+\}/', $route) === 1;
                if ($isOfAnother) {
                    self::assertSame(404, $this->call($method, (string) $own)->getStatusCode(), "$route with another's");
                }
            }
        }
        self::assertSame($this->migration->name, Migration::query()->findOrFail($this->migration->id)->name);
    }

    public function test_the_document_says_what_the_table_says(): void
    {
        $says = (string) file_get_contents(base_path('docs/roles.md'));
        foreach (Right::cases() as $right) {
            $cells = array_map(fn (Role $role) => $role->may($right) ? 'yes' : 'no', Role::cases());
            self::assertStringContainsString("| {$right->words()} | ".implode(' | ', $cells).' |', $says);
        }
    }
}
