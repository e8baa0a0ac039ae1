// Seed drill, Ebbesen
module drill(
  input clk,
  input seed_n,
  input clear_n,
  output [6:0] seg_n,
  output reg [1:0] dig_n,
  output tray,
  output reg beat
);

reg [4:0] count = 0;
reg [16:0] still = 0;
reg [1:0] sync = 2'b11;
reg state = 1;
reg [21:0] quarter = 0;
reg [14:0] scan = 0;
reg [3:0] show = 0;
reg [6:0] lit = 0;

initial beat = 0;

// the key counts once it has been still for 8 ms
always @(posedge clk) begin
  sync <= {sync[0], seed_n};
  if (sync[1] == state)
    still <= 0;
  else begin
    still <= still + 1;
    if (still == 96000) begin
      state <= sync[1];
      if (sync[1] == 0) begin
        if (count == 19)
          count <= 0;
        else
          count <= count + 1;
      end
    end
  end
  if (clear_n == 0)
    count <= 0;
end

// the beat
always @(posedge clk) begin
  if (quarter == 2999999) begin
    quarter <= 0;
    beat <= ~beat;
  end else
    quarter <= quarter + 1;
end

// the digits
always @(posedge clk) begin
  scan <= scan + 1;
  if (scan == 0) begin
    if (dig_n == 2'b10) begin
      dig_n <= 2'b01;
      show <= count % 10;
    end else begin
      dig_n <= 2'b10;
      show <= count / 10;
    end
  end
end

always @* begin
  case (show)
    0: lit = 7'b0111111;
    1: lit = 7'b0000110;
    2: lit = 7'b1011011;
    3: lit = 7'b1001111;
    4: lit = 7'b1100110;
    5: lit = 7'b1101101;
    6: lit = 7'b1111101;
    7: lit = 7'b0000111;
    8: lit = 7'b1111111;
    9: lit = 7'b1101111;
    default: lit = 0;
  endcase
end

assign seg_n = ~lit;
assign tray = count > 14;

endmodule
