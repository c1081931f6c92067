# Shared by bin/start and bin/test: what must be on the machine, and a private MariaDB.

# PHP's compiler for long work: freezing and loading are about twice as fast with it. Its limits are set for pages; one process that
# loads and then reconciles would go on uncompiled.
JIT=()
while read -r setting; do JIT+=(-d "$setting"); done <bin/jit.ini

# Debian's php-fpm may come with a debugger, which makes every page slow and ends what calls deeply.
export XDEBUG_MODE=off

say() { printf '%s\n' "$*"; }
fail() { printf 'baggage: %s\n' "$*" >&2; exit 1; }

# Debian packages by the command or PHP extension that shows they are there.
need_system() {
    local missing=()
    command -v mariadbd >/dev/null 2>&1 || [ -x /usr/sbin/mariadbd ] || missing+=(mariadb-server)
    local have; have=$(php -m 2>/dev/null | tr 'A-Z' 'a-z')
    local pair
    for pair in pdo_mysql:php8.2-mysql pdo_sqlite:php8.2-sqlite3 zip:php8.2-zip curl:php8.2-curl \
        bcmath:php8.2-bcmath gmp:php8.2-gmp mbstring:php8.2-mbstring intl:php8.2-intl xml:php8.2-xml gd:php8.2-gd pdo_pgsql:php8.2-pgsql pdo_odbc:php8.2-odbc; do
        grep -qx "${pair%%:*}" <<<"$have" || missing+=("${pair##*:}")
    done
    if [ -n "${1:-}" ]; then
        # Reference readers and writers the tests compare with.
        /usr/bin/python3 -c 'import xlsxwriter, openpyxl, dbfread, stdnum, jellyfish' 2>/dev/null || missing+=(python3-xlsxwriter python3-openpyxl python3-dbfread python3-stdnum python3-jellyfish)
        grep -qx pdo_dblib <<<"$have" || missing+=(php8.2-sybase)
        [ -f /usr/share/iso-codes/json/iso_3166-1.json ] || missing+=(iso-codes)
    fi
    if [ "${1:-}" = browser ]; then
        command -v chromium >/dev/null 2>&1 || missing+=(chromium)
        command -v chromedriver >/dev/null 2>&1 || missing+=(chromium-driver)
    fi
    [ ${#missing[@]} -eq 0 ] && return 0
    if [ "$(id -u)" -ne 0 ]; then
        fail "these Debian packages are missing. Run: sudo apt-get update && sudo apt-get install --no-install-recommends ${missing[*]}"
    fi
    say "Installing ${missing[*]}"
    { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}"; } >"$LOGS/apt.log" 2>&1 ||
        fail "the Debian packages ${missing[*]} did not install; see $LOGS/apt.log (is the package registry reachable?)"
}

# The same browser without the windows nobody sees, of the version of its driver. Tests go without it where it cannot be had.
want_headless_shell() {
    command -v chromium-headless-shell >/dev/null 2>&1 && return
    local version; version=$(dpkg-query -W -f '${Version}' chromium-driver 2>/dev/null)
    [ "$(id -u)" -eq 0 ] && [ -n "$version" ] && { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq \
        --no-install-recommends "chromium-headless-shell=$version"; } >"$LOGS/apt-shell.log" 2>&1 && return
    say "Without chromium-headless-shell screens are tried in the whole browser, which takes longer"
}

need_packages() {
    command -v php >/dev/null || fail "PHP 8.2 is missing: apt-get install php8.2-cli"
    command -v composer >/dev/null || fail "Composer is missing: apt-get install composer"
    command -v npm >/dev/null || fail "Node.js and npm are missing: apt-get install nodejs npm"
    if [ ! -f vendor/autoload.php ] || [ composer.json -nt vendor/autoload.php ] || [ composer.versions -nt vendor/autoload.php ]; then
        say "Installing PHP packages"
        # Exactly these versions; CONTRIBUTING.md says why there is no lock file.
        # shellcheck disable=SC2046
        COMPOSER_ALLOW_SUPERUSER=1 composer update --no-interaction --no-progress --quiet $(sed 's/^\(.*\) \(.*\)$/--with=\1:\2/' composer.versions) \
            >"$LOGS/composer.log" 2>&1 ||
            { tail -n 15 "$LOGS/composer.log" >&2; fail "composer could not install the PHP packages (is the package registry reachable?)"; }
        # What the framework remembers of packages may name one that is gone.
        rm -f bootstrap/cache/packages.php bootstrap/cache/services.php
        touch vendor/autoload.php
    fi
    if [ ! -d node_modules/vite ] || [ package.json -nt node_modules/.package-lock.json ]; then
        say "Installing npm packages"
        npm install --no-audit --no-fund --loglevel=error >"$LOGS/npm.log" 2>&1 ||
            { tail -n 15 "$LOGS/npm.log" >&2; fail "npm could not install its packages (is the package registry reachable?)"; }
        touch node_modules/.package-lock.json
    fi
    if [ ! -f public/build/manifest.json ] || [ -n "$(find resources vite.config.js package.json -newer public/build/manifest.json -print -quit)" ]; then
        say "Building styles and scripts"
        npm run --silent build >"$LOGS/vite.log" 2>&1 || { tail -n 20 "$LOGS/vite.log" >&2; fail "the styles and scripts did not build"; }
    fi
}

port_free() { ! (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# take_port FIRST: sets DB_PORT to a free port from there on. The lock is held by this script and the database it starts, so two that
# begin in the same second do not choose the same one.
take_port() {
    DB_PORT=$1
    while true; do
        exec {PORT_LOCK}>"/tmp/baggage-$(id -u)-port-$DB_PORT.lock"
        flock -n "$PORT_LOCK" && port_free "$DB_PORT" && return
        exec {PORT_LOCK}>&-
        DB_PORT=$((DB_PORT + 1))
    done
}

secret() { head -c 64 /dev/urandom | base64 | tr -dc 'A-Za-z0-9' | head -c "${1:-24}"; }

# start_database FOLDER PORT: MariaDB on loopback with a data folder of its own. Sets DB_PID and DB_SOCKET.
start_database() {
    local folder=$1 port=$2 me daemon
    me=$(id -un)
    daemon=$(command -v mariadbd || echo /usr/sbin/mariadbd)
    # Temporary tables of its own: a server that starts deletes all it finds in its folder for them, also those of another server.
    mkdir -p "$folder/tmp"
    # A socket path may be 107 bytes at most, so it does not lie below the project.
    DB_SOCKET=/tmp/baggage-$(printf '%s' "$folder" | cksum | cut -d' ' -f1).sock
    if [ ! -d "$folder/data/mysql" ]; then
        rm -rf "$folder/data"
        mariadb-install-db --no-defaults --datadir="$folder/data" --tmpdir="$folder/tmp" --user="$me" --skip-test-db \
            --auth-root-authentication-method=socket --auth-root-socket-user="$me" >"$folder/install.log" 2>&1 ||
            { tail -n 8 "$folder/install.log" >&2; fail "MariaDB could not make its data folder"; }
    fi
    "$daemon" --no-defaults --datadir="$folder/data" --tmpdir="$folder/tmp" --user="$me" --bind-address=127.0.0.1 --port="$port" \
        --socket="$DB_SOCKET" --pid-file="$folder/mariadb.pid" --log-error="$folder/mariadb.log" \
        --character-set-server=utf8mb4 --collation-server=utf8mb4_unicode_520_ci --local-infile=1 \
        --innodb-buffer-pool-size="${DB_POOL:-512M}" --innodb-log-file-size=256M --max-allowed-packet=64M \
        --performance-schema=OFF ${DB_EXTRA:-} &
    DB_PID=$!
    local i
    for i in $(seq 1 150); do
        mariadb-admin --no-defaults --socket="$DB_SOCKET" --user="$me" ping >/dev/null 2>&1 && return 0
        kill -0 "$DB_PID" 2>/dev/null || break
        sleep 0.2
    done
    tail -n 8 "$folder/mariadb.log" >&2
    fail "MariaDB did not start; the lines above are from $folder/mariadb.log"
}

# have_web_server: nginx and php-fpm, installed where root may. Without them PHP's own web server serves, which replaces no process that dies.
have_web_server() {
    FPM=$(command -v php-fpm8.2 || command -v /usr/sbin/php-fpm8.2) NGINX=$(command -v nginx || command -v /usr/sbin/nginx)
    [ -n "$FPM" ] && [ -n "$NGINX" ] && return 0
    [ "$(id -u)" -eq 0 ] && [ -z "${1:-}" ] || return 1
    say "Installing nginx and php8.2-fpm"
    { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends nginx php8.2-fpm; } >"$LOGS/apt-web.log" 2>&1
    # Those of the system are none of ours.
    for service in nginx php8.2-fpm; do
        { systemctl disable --now $service || service $service stop; } >/dev/null 2>&1
    done
    have_web_server installed
}

# web_server FOLDER PORT: writes what nginx and php-fpm are told. Both run as who started this, with files of their own below FOLDER.
web_server() {
    local folder=$1 port=$2 root=$PWD
    # A name no other installation on the machine has: what a killed one left is known by it.
    POOL=baggage-$(printf '%s' "$folder" | cksum | cut -d' ' -f1)
    mkdir -p "$folder/tmp" "$folder/upload"
    cat >"$folder/fpm.conf" <<CONF
[global]
pid = $folder/fpm.pid
error_log = $LOGS/fpm.log
daemonize = no
[$POOL]
listen = $folder/fpm.sock
listen.mode = 0600
pm = dynamic
pm.max_children = 12
pm.start_servers = 4
pm.min_spare_servers = 2
pm.max_spare_servers = 6
pm.max_requests = 2000
clear_env = no
catch_workers_output = yes
php_admin_value[memory_limit] = 256M
php_admin_value[upload_max_filesize] = 1024M
php_admin_value[post_max_size] = 1040M
php_admin_value[max_file_uploads] = 40
php_admin_value[upload_tmp_dir] = $folder/upload
php_admin_flag[expose_php] = off
php_admin_flag[display_errors] = off
CONF
    local headers='add_header Content-Security-Policy "default-src '"'none'"'; frame-ancestors '"'none'"'" always;
            add_header X-Content-Type-Options nosniff always; add_header X-Frame-Options DENY always;
            add_header Referrer-Policy same-origin always; add_header Cross-Origin-Resource-Policy same-origin always;'
    cat >"$folder/nginx.conf" <<CONF
$([ "$(id -u)" -ne 0 ] || echo "user $(id -un) $(id -gn);")
daemon off;
worker_processes 2;
pid $folder/nginx.pid;
error_log $LOGS/nginx.log warn;
events { worker_connections 512; }
http {
    include /etc/nginx/mime.types;
    default_type application/octet-stream;
    types_hash_max_size 4096;
    charset utf-8;
    charset_types text/css application/javascript text/javascript text/plain image/svg+xml;
    server_tokens off;
    sendfile on;
    gzip on;
    gzip_types text/css application/javascript text/javascript image/svg+xml;
    # Keys that were traced stand in addresses: they are in no log of ours.
    access_log off;
    client_max_body_size 1040m;
    client_header_timeout 15s;
    client_body_timeout 30s;
    send_timeout 60s;
    client_body_temp_path $folder/tmp/body; proxy_temp_path $folder/tmp/proxy; fastcgi_temp_path $folder/tmp/fastcgi;
    uwsgi_temp_path $folder/tmp/uwsgi; scgi_temp_path $folder/tmp/scgi;
    server {
        listen 127.0.0.1:$port;
        root $root/public;
        location ~* ^/(?:build/.*|[^/]+)\.(?:css|js|svg|png|ico|woff2?|txt)\$ {
            try_files \$uri @application;
            expires 1h;
            $headers
        }
        location / { try_files /nothing @application; }
        error_page 413 @large;
        error_page 502 504 @away;
        location @large { default_type text/plain; $headers return 413 "This is larger than 1,024 MB, which is the most that is taken at once.\\n"; }
        location @away { default_type text/plain; $headers return 503 "Baggage does not answer just now, or is being started again. Nothing is lost; load the page again.\\n"; }
        location @application {
            # Not those of the system: its file takes the port from the host.
            fastcgi_param QUERY_STRING \$query_string;
            fastcgi_param REQUEST_METHOD \$request_method;
            fastcgi_param CONTENT_TYPE \$content_type;
            fastcgi_param CONTENT_LENGTH \$content_length;
            fastcgi_param REQUEST_URI \$request_uri;
            fastcgi_param DOCUMENT_URI \$document_uri;
            fastcgi_param DOCUMENT_ROOT $root/public;
            fastcgi_param SERVER_PROTOCOL \$server_protocol;
            fastcgi_param REQUEST_SCHEME \$scheme;
            fastcgi_param GATEWAY_INTERFACE CGI/1.1;
            fastcgi_param REMOTE_ADDR \$remote_addr;
            fastcgi_param REMOTE_PORT \$remote_port;
            fastcgi_param SERVER_ADDR \$server_addr;
            fastcgi_param SERVER_PORT \$server_port;
            fastcgi_param SERVER_NAME \$host;
            fastcgi_param REDIRECT_STATUS 200;
            fastcgi_param SCRIPT_FILENAME $root/public/index.php;
            fastcgi_param SCRIPT_NAME /index.php;
            fastcgi_param HTTP_PROXY "";
            fastcgi_pass unix:$folder/fpm.sock;
            fastcgi_read_timeout 120s;
        }
    }
}
CONF
}

# php_fpm FOLDER: with what a killed one left out of the way, and only as long as whoever started it.
php_fpm() {
    local root=''
    [ "$(id -u)" -ne 0 ] || root=--allow-to-run-as-root
    keep "$LOGS/web.log" bash -c 'pkill -KILL -f "php-fpm: pool $4\$"; rm -f "$2/fpm.sock"; exec setpriv --pdeathsig TERM "$1" --nodaemonize --fpm-config "$2/fpm.conf" $3' \
        fpm "$FPM" "$1" "$root" "$POOL"
}

# keep LOG COMMAND…: runs it in a group of its own, and again whenever it ends.
keep() {
    KEPT+=("$(printf '%q ' "$@")")
    kept $((${#KEPT[@]} - 1)) "$@"
}
kept() {
    local at=$1 log=$2; shift 2
    setsid bash -c 'while true; do "$@"; sleep 0.5; done' keep "$@" >>"$log" 2>&1 &
    PIDS[at]=$!
}

# keep_all: whoever keeps something may be killed too; what it kept goes with it, and both are there again.
keep_all() {
    local at
    for at in "${!KEPT[@]}"; do
        kill -0 "${PIDS[at]}" 2>/dev/null && continue
        kill -KILL -- "-${PIDS[at]}" 2>/dev/null
        eval "kept $at ${KEPT[at]}"
    done
}

# sql: runs standard input as the database's administrator.
sql() { mariadb --no-defaults --socket="$DB_SOCKET" --user="$(id -un)" "$@"; }
